#!/usr/bin/env bash
# with_pkg_config.sh PREFIX LIBDIR COMPILER VERSION CONSUMER FLAGS: moves a copy of an installation and builds with it.
set -euo pipefail
prefix=$1 libdir=$2 compiler=$3 version=$4 consumer=$5 flags=$6
moved=$(mktemp -d)
trap 'rm -rf "$moved"' EXIT
cp -r "$prefix/." "$moved"
export PKG_CONFIG_PATH=$moved/$libdir/pkgconfig
pkg-config --exact-version="$version" cursorum
[[ $(pkg-config --cflags cursorum) == *"$moved"* ]]
# shellcheck disable=SC2046
"$compiler" $flags "$consumer/engine.cpp" "$consumer/game.cpp" $(pkg-config --cflags --libs cursorum) -o "$moved/consumer"
"$moved/consumer"
for document in LICENSE README.md docs/recording-format.md; do
    test -f "$moved/share/doc/cursorum/$document" || { echo "$document is not installed" >&2; exit 1; }
done
