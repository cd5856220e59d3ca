#!/usr/bin/env bash
# Libraries for game modules: shared ones export what abi/ says and nothing else, and keep their binary interface; an
# engine loads a module that is linked with them, and one with the static core inside; installed and moved, they find
# each other, from Debian packages if those can be made.
#
#   libraries.sh ROOT FOLDER COMPILER STATIC_CORE: prints nothing if all is well
set -euo pipefail
root=$1 folder=$2 compiler=$3 static_core=$4
mkdir -p "$folder"
"$root/tools/abi.sh" check "$folder/shared"

prints() { cat "$1"; exit 1; }
# Every other floor is shared as well.
cmake -S "$root" -B "$folder/shared" -DCMAKE_INSTALL_PREFIX=/usr \
    -DCURSORUM_{RECORDING,HID,X11,EVDEV,DUMPS,VIEWS,WHY,TOOL,INSTALL}=ON >"$folder/shared.log"
cmake --build "$folder/shared" >>"$folder/shared.log" 2>&1 || prints "$folder/shared.log"
libdir=$(sed -n 's/^CMAKE_INSTALL_LIBDIR:.*=//p' "$folder/shared/CMakeCache.txt")
version=$(sed -n 's/.*CURSORUM_VERSION "\([0-9.]*\)".*/\1/p' "$root/include/cursorum/core/version.hpp")
# From Debian packages where those can be made, as root; else from an installation.
if [ "$(id -u)" = 0 ]; then
    "$root/tests/package/debs.sh" "$folder/shared" "$libdir" "$compiler" "$version" "$root"
else
    cmake --install "$folder/shared" --prefix "$folder/prefix" >>"$folder/shared.log"
    "$root/tests/package/moved.sh" "$folder/prefix" "$libdir" "$compiler" "$version" "$root" ""
fi

cd "$folder"
module=$root/tests/package/module
options=(-std=c++20 -Wall -Wextra -Werror -fPIC -shared -I"$root/include")
"$compiler" "${options[@]}" -o static_module.so "$module/module.cpp" "$static_core"
"$compiler" "${options[@]}" -DWITH_ACTIONS -o shared_module.so "$module/module.cpp" \
    -Lshared/src -lcursorum_actions -lcursorum_core -Wl,-rpath,"$PWD/shared/src"
"$compiler" -std=c++20 -o engine "$module/engine.cpp" -ldl
./engine ./static_module.so
./engine ./shared_module.so

readelf -d shared/src/libcursorum_core.so | grep -q "SONAME.*libcursorum_core.so.${version%.*}\]" ||
    { echo "libcursorum_core.so: its soname does not end in ${version%.*}"; exit 1; }
