#!/usr/bin/env bash
# ./run.sh demo    sets up what is missing, builds, shows the whole job on the demo recording
# ./run.sh test    the same, and runs all tests
# ./run.sh bench   the same, and measures
# ./run.sh setup   the set-up and build alone
#
# BUILD=release (default), debug, asan or tsan chooses the preset; CI=true makes warnings errors.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")"
preset=${BUILD:-release}
build=build/$preset

fail() { echo "run.sh: $*" >&2; exit 2; }

missing_packages() {
    local package
    for package in $(grep -v '^#' packages.txt); do
        # One look at dpkg's own list is faster than asking it once for each.
        [[ $installed == *" $package "* ]] || echo "$package"
    done
}

install_packages() {
    local installed missing
    command -v dpkg-query >/dev/null || fail "this is no Debian; install what packages.txt names, then build with CMake"
    installed=" $(dpkg-query -W -f '${db:Status-Status} ${Package}\n' | awk '$1 == "installed" { printf "%s ", $2 }')"
    missing=$(missing_packages)
    [ -n "$missing" ] || return 0
    [ "$(id -u)" = 0 ] || fail "missing packages; as root: apt-get install --no-install-recommends" $missing
    echo "Installing:" $missing
    apt-get update -qq
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
}

# Everything that a build depends on; when it is as at the last build, there is nothing to do.
fingerprint() {
    { echo "$preset ${CI:-}"; find CMakeLists.txt CMakePresets.json packages.txt \
        cmake include src tools examples demo bench tests -type f -printf '%p %T@ %s\n' | sort; } | sha256sum
}

set_up() {
    local now
    now=$(fingerprint)
    [ -f "$build/.built" ] && [ "$(cat "$build/.built")" = "$now" ] && return 0
    install_packages
    mkdir -p "$build"
    echo "Building ($preset) …" >&2
    local options=(-DCURSORUM_WARNINGS_AS_ERRORS=OFF)
    [ "${CI:-}" = true ] && options=(-DCURSORUM_WARNINGS_AS_ERRORS=ON)
    cmake --preset "$preset" "${options[@]}" >"$build/configure.log" 2>&1 ||
        { cat "$build/configure.log" >&2; fail "CMake could not configure"; }
    cmake --build --preset "$preset" >"$build/build.log" 2>&1 ||
        { grep -E 'error|FAILED' -A 5 "$build/build.log" >&2 || tail -n 40 "$build/build.log" >&2; fail "the build failed"; }
    echo "$now" >"$build/.built"
}

case ${1:-} in
    demo) set_up; shift; exec "$build/tools/cursorum/cursorum" demo "$@" ;;
    test) set_up; shift; exec ctest --test-dir "$build" --output-on-failure --parallel 2 "$@" ;;
    bench) set_up; shift; exec "$build/bench/cursorum_bench" "$@" ;;
    setup) set_up ;;
    *) sed -n '2,7p' "$0" | cut -c3-; exit 2 ;;
esac
