#!/usr/bin/env bash
# moved.sh PREFIX LIBDIR COMPILER VERSION ROOT FLAGS: moves a copy of an installation, runs each program in it, and
# builds with it by pkg-config and by CMake. Nothing helps the programs to find shared libraries.
set -euo pipefail
prefix=$1 libdir=$2 compiler=$3 version=$4 root=$5 flags=$6
consumer=$root/tests/package/consumer
unset LD_LIBRARY_PATH
moved=$(mktemp -d)
trap 'rm -rf "$moved"' EXIT
cp -r "$prefix/." "$moved"
cd "$moved"

for document in LICENSE README.md docs/recording-format.md; do
    test -f "share/doc/cursorum/$document" || { echo "$document is not installed" >&2; exit 1; }
done
[ ! -f include/cursorum/sources/evdev_source.hpp ] || test -f lib/udev/rules.d/70-cursorum-gamepads.rules ||
    { echo "the rule for udev is not installed" >&2; exit 1; }
for program in bin/*; do
    "$program" --help >/dev/null || { echo "$program does not run" >&2; exit 1; }
done
[ ! -x bin/cursorum ] || bin/cursorum demo >/dev/null

export PKG_CONFIG_PATH=$moved/$libdir/pkgconfig
for file in "$libdir"/pkgconfig/cursorum-*.pc; do
    package=$(basename "$file" .pc)
    floor=${package#cursorum-}
    pkg-config --exact-version="$version" "$package"
    [[ $(pkg-config --cflags "$package") == *"$moved"* ]]
    # shellcheck disable=SC2046
    "$compiler" $flags "-DFLOOR_$floor" "$consumer/floor.cpp" $(pkg-config --cflags --libs "$package") \
        -Wl,-rpath,"$moved/$libdir" -o "$moved/$floor"
    "./$floor" || { echo "$package: what is built with it does not run" >&2; exit 1; }
done

cmake -S "$consumer" -B cmake_build -G Ninja -DCMAKE_CXX_COMPILER="$compiler" -DCMAKE_BUILD_TYPE=Debug \
    -DCMAKE_PREFIX_PATH="$moved" -DVERSION="$version" -DFLAGS="$flags" -DPROFILE="$root/demo/quay.toml" >cmake.log
cmake --build cmake_build >>cmake.log || { cat cmake.log >&2; exit 1; }
cmake_build/consumer
