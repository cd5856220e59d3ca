#!/usr/bin/env bash
# Libraries for game modules: shared ones export what abi/ says and nothing else, and keep their binary interface; an
# engine loads a module that is linked with them, and one with the static core inside. libraries.sh ROOT FOLDER COMPILER:
# prints nothing if all is well.
set -euo pipefail
root=$1 folder=$2 compiler=$3
mkdir -p "$folder"
"$root/tools/abi.sh" check "$folder/shared"

cmake -S "$root" -B "$folder/static" -G Ninja -DCMAKE_BUILD_TYPE=Debug -DCURSORUM_POSITION_INDEPENDENT_CODE=ON \
    -DCURSORUM_{RECORDING,ACTIONS,HID,X11,EVDEV,DUMPS,VIEWS,TOOL,EXAMPLES,TESTS,BENCH,INSTALL}=OFF >"$folder/static.log"
cmake --build "$folder/static" >>"$folder/static.log" 2>&1 || { cat "$folder/static.log"; exit 1; }

cd "$folder"
module=$root/tests/package/module
options=(-std=c++20 -Wall -Wextra -Werror -fPIC -shared -I"$root/include")
"$compiler" "${options[@]}" -o static_module.so "$module/module.cpp" static/src/libcursorum_core.a
"$compiler" "${options[@]}" -DWITH_ACTIONS -o shared_module.so "$module/module.cpp" \
    -Lshared/src -lcursorum_actions -lcursorum_core -Wl,-rpath,"$PWD/shared/src"
"$compiler" -std=c++20 -o engine "$module/engine.cpp" -ldl
./engine ./static_module.so
./engine ./shared_module.so

version=$(sed -n 's/.*CURSORUM_VERSION "\([0-9]*\.[0-9]*\).*/\1/p' "$root/include/cursorum/core/version.hpp")
readelf -d shared/src/libcursorum_core.so | grep -q "SONAME.*libcursorum_core.so.$version\]" ||
    { echo "libcursorum_core.so: its soname does not end in $version"; exit 1; }
