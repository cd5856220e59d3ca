#!/usr/bin/env bash
# Builds desk_digest with other compilers, at other levels of optimisation and for a big-endian processor, and compares
# what each prints with what this build's own prints.
#
#   compare.sh OWN_DIGEST SOURCE_DIR WORK_DIR CORE_SOURCE...
#
# RUNNER=PROGRAM runs OWN_DIGEST, which is for another system; it is then compared with one for this system.
set -euo pipefail
own=$1 root=$2 work=$3
shift 3
mkdir -p "$work"
${RUNNER:+"$RUNNER"} "$own" | tr -d '\r' >"$work/own.txt"
[ "$(wc -l <"$work/own.txt")" -ge 1000 ] || { echo "too few frames: the digest is broken"; exit 1; }

# All of the core is one unit: most of the time would go into reading the same headers again.
printf '#include "%s"\n' "${@/#/$root/src/}" >"$work/core.cpp"

compared=0 failed=0
build() {
    local dir=$1 compiler=$2 flags=$3 runner=$4 source
    for source in "$work/core.cpp" "$root/tests/determinism/desk_digest.cpp"; do
        "$compiler" -std=c++20 $flags -I"$root/include" -I"$root/src" -I"$root/tests" -c "$source" \
            -o "$dir/$(basename "$source" .cpp).o"
    done
    "$compiler" $flags ${runner:+-static} "$dir"/*.o -o "$dir/desk_digest"
}
# A pair of them at a time: NAME RUNNER COMPILER FLAGS.
compare() {
    local name=$1 runner=$2 compiler=$3 flags=$4
    if ! command -v "$compiler" >/dev/null || { [ -n "$runner" ] && ! command -v "$runner" >/dev/null; }; then
        echo "$name: left out, since $compiler${runner:+ or $runner} is not installed (packages.txt names it)"
        return
    fi
    local dir=$work/$name
    rm -rf "$dir"
    mkdir -p "$dir"
    compared=$((compared + 1))
    {
        build "$dir" "$compiler" "$flags" "$runner"
        $runner "$dir/desk_digest" >"$dir/out.txt"
        if cmp -s "$work/own.txt" "$dir/out.txt"; then
            echo "$name: the same"
        else
            echo "$name: DIFFERS"
            diff "$work/own.txt" "$dir/out.txt" | head -6 || true
            exit 1
        fi
    } &
    [ "$(jobs -rp | wc -l)" -lt 2 ] || wait -n || failed=1
}

# What the core's own build says: frames must not depend on it, so contraction is never left to the compiler.
common="-ffp-contract=off -fno-exceptions -fno-rtti"
# Its own is g++ -O3 (the release build).
compare gcc-O0 "" g++ "-O0 $common"
if [ -z "${RUNNER:-}" ]; then
    compare clang-O0 "" clang++ "-O0 $common"
    compare clang-O3 "" clang++ "-O3 $common"
    compare big-endian qemu-s390x s390x-linux-gnu-g++ "-O3 $common"
fi
while [ -n "$(jobs -p)" ]; do wait -n || failed=1; done
[ "$compared" -gt 0 ] || { echo "nothing to compare with"; exit 1; }
exit "$failed"
