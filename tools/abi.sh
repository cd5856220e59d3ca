#!/usr/bin/env bash
# The binary interface of the shared libraries: exported symbols, and sizes and layouts of what they take and return.
#
#   tools/abi.sh write FOLDER   builds the libraries in FOLDER and writes their description to abi/
#   tools/abi.sh check FOLDER   likewise, and compares with abi/; prints what differs, and then ends with 1
#
# A minor version keeps its interface: whoever changes it raises the version and writes it anew.
set -euo pipefail
root=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
what=${1:-} folder=${2:-}
case $what in write | check) ;; *) sed -n '2,7s/^# \{0,1\}//p' "${BASH_SOURCE[0]}" >&2; exit 2 ;; esac
[ -n "$folder" ] || { echo "abi.sh: which folder? For example: tools/abi.sh $what build/abi" >&2; exit 2; }

cmake -S "$root" -B "$folder" -G Ninja -DCMAKE_BUILD_TYPE=Debug -DBUILD_SHARED_LIBS=ON \
    -DCURSORUM_{RECORDING,HID,X11,EVDEV,DUMPS,VIEWS,WHY,TOOL,EXAMPLES,TESTS,BENCH,INSTALL}=OFF >"$folder.log" 2>&1 &&
    cmake --build "$folder" >>"$folder.log" 2>&1 || { cat "$folder.log" >&2; exit 2; }

status=0
for floor in core actions; do
    library=$folder/src/libcursorum_$floor.so
    # Names without argument types, so that they can be read; constructors and overloads stand there once.
    nm -DC --defined-only "$library" | sed 's/^[0-9a-f]* . //; s/(.*//; /^cursorum_[0-9.]*$/d' | LC_ALL=C sort -u \
        >"$folder/$floor.symbols"
    abidw --headers-dir "$root/include" --drop-private-types --exported-interfaces-only --no-show-locs \
        --no-corpus-path --no-comp-dir-path --no-elf-needed --type-id-style hash \
        --out-file "$folder/$floor.abi" "$library"
    if [ "$what" = write ]; then
        cp "$folder/$floor.symbols" "$root/abi/$floor.symbols"
        xz -9ec "$folder/$floor.abi" >"$root/abi/$floor.abi.xz"
        continue
    fi
    diff -u "$root/abi/$floor.symbols" "$folder/$floor.symbols" ||
        { echo "$library: exports other symbols than abi/$floor.symbols"; status=1; }
    xz -dc "$root/abi/$floor.abi.xz" >"$folder/$floor.kept.abi"
    abidiff --suppressions "$root/abi/suppressions" "$folder/$floor.kept.abi" "$folder/$floor.abi" ||
        { echo "$library: differs from abi/$floor.abi.xz"; status=1; }
done
[ "$status" = 0 ] || echo "If this is meant: raise the version, and write them anew with ./run.sh abi"
exit "$status"
