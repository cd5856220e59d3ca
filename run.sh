#!/usr/bin/env bash
# ./run.sh demo    sets up what is missing, builds a small program that shows the whole job on the demo recording
# ./run.sh tool …  sets up what is missing, builds the command-line tool, and runs it: ./run.sh tool frames FILE
# ./run.sh play    sets up what is missing, builds the crane in a window, and opens it; options go to it (--help)
# ./run.sh guide N sets up what is missing, builds step N of docs/guide (1 to 8) alone, and runs it
# ./run.sh test    sets up and builds everything, and runs all tests
# ./run.sh test-kernel  builds everything and tests the Linux event devices in a machine of its own (QEMU)
# ./run.sh test-windows  builds core and actions for Windows, and runs their tests with wine
# ./run.sh bench   the same, and measures
# ./run.sh fuzz    builds the fuzz targets and runs each for a minute (FUZZ_SECONDS=N for longer)
# ./run.sh mutants [WORD…]  builds core and actions with faults in their rules, and names those that no test notices
# ./run.sh setup   sets up and builds everything
# ./run.sh package writes packages for Debian to build/package: the libraries, what is needed to build with them, the tool
# ./run.sh amalgamate [DIR]  writes the core as one header and one source file, to take along without a build system
# ./run.sh docs    writes the reference of all public headers to build/docs/html
# ./run.sh abi     writes the binary interface of the shared libraries to abi/, for a version that changes it
#
# BUILD=release (default), debug, asan or tsan chooses the preset (for fuzz: fuzz or asan); CI=true makes warnings errors.
set -euo pipefail
cd "$(dirname "${BASH_SOURCE[0]}")"
preset=${BUILD:-release}
build=build/$preset

fail() { echo "run.sh: $*" >&2; exit 2; }

install_packages() {
    local installed package missing=()
    if ! command -v dpkg-query >/dev/null; then
        echo "run.sh: this is not Debian: building with what is there; $* list what Debian calls it. By hand:" >&2
        echo "  cmake --preset release && cmake --build --preset release" >&2
        return 0
    fi
    # One look at dpkg's own list is faster than asking it once for each.
    installed=" $(dpkg-query -W -f '${db:Status-Status} ${Package}\n' | awk '$1 == "installed" { printf "%s ", $2 }')"
    for package in $(grep -hv '^#' "$@"); do
        [[ $installed == *" $package "* ]] || missing+=("$package")
    done
    [ ${#missing[@]} -gt 0 ] || return 0
    [ "$(id -u)" = 0 ] || fail "missing packages; as root: apt-get install --no-install-recommends ${missing[*]}"
    echo "Installing: ${missing[*]}" >&2
    apt-get update -qq
    # Another apt may be at work: it is waited for.
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq -o DPkg::Lock::Timeout=600 --no-install-recommends \
        "${missing[@]}" >/dev/null
}

# Everything that a build depends on; when it is as at the last build, there is nothing to do.
fingerprint() {
    { echo "$preset ${CI:-}"; find CMakeLists.txt CMakePresets.json packages.txt packages-window.txt packages-test.txt \
        cmake include src tools examples demo bench tests -type f -printf '%p %T@ %s\n' | sort; } | sha256sum
}

# Steps done of all, in one line on a terminal, else at each tenth.
show_progress() {
    local line step all tenth last=-1
    while IFS= read -r line; do
        echo "$line" >>"$build/build.log"
        [[ $line =~ ^\[([0-9]+)/([0-9]+)\] ]] || continue
        step=${BASH_REMATCH[1]} all=${BASH_REMATCH[2]} tenth=$((10 * step / all))
        if [ -t 2 ]; then
            printf '\rBuilding (%s): step %s of %s \033[K' "$preset" "$step" "$all" >&2
        elif [ "$tenth" != "$last" ]; then
            echo "Building ($preset): step $step of $all" >&2
        fi
        last=$tenth
    done
    [ ! -t 2 ] || printf '\r\033[K' >&2
}

# set_up demo: what the demo needs, no more; set_up tool: the command-line tool; set_up window: what the first box
# needs; set_up guide_NAME: a program of the guide; set_up package: what is packed. set_up all: everything.
set_up() {
    local what=$1 now options=() target=all
    now=$(fingerprint)
    [ -f "$build/.built-all" ] && [ "$(cat "$build/.built-all")" = "$now" ] && return 0
    [ -f "$build/.built-$what" ] && [ "$(cat "$build/.built-$what")" = "$now" ] && return 0
    if [ "$what" = tool ] || [ "$what" = demo ]; then
        install_packages packages.txt
        options=(-DCURSORUM_{TESTS,BENCH,EXAMPLES,X11,EVDEV,HID,PICTURES,WATCH}=OFF)
        target=$([ "$what" = tool ] && echo cursorum || echo cursorum_demo)
    elif [ "$what" = window ]; then
        install_packages packages.txt packages-window.txt
        options=(-DCURSORUM_{TESTS,BENCH,HID,PICTURES,WATCH}=OFF -DCURSORUM_{EXAMPLES,X11,EVDEV}=ON)
        target="quay_window first_box"
    elif [ "$what" = package ]; then
        install_packages packages.txt packages-window.txt packages-test.txt
        options=(-B "$build" -DBUILD_SHARED_LIBS=ON -DCMAKE_INSTALL_PREFIX=/usr -DCURSORUM_{TESTS,BENCH,EXAMPLES}=OFF)
    elif [[ $what = guide_* ]]; then
        install_packages packages.txt
        options=(-DCURSORUM_{TESTS,BENCH,X11,EVDEV,HID,PICTURES,WATCH}=OFF -DCURSORUM_EXAMPLES=ON)
        target=$what
    else
        install_packages packages.txt packages-window.txt packages-test.txt
        # What `set_up tool` switched off is as the preset has it again; what was compiled stays.
        ! compgen -G "$build/.built-[dgtw]*" >/dev/null || rm -f "$build/CMakeCache.txt" "$build"/.built-[dgtw]*
    fi
    mkdir -p "$build"
    options+=(-DCURSORUM_WARNINGS_AS_ERRORS="$([ "${CI:-}" = true ] && echo ON || echo OFF)")
    cmake "${options[@]}" --preset "$preset" >"$build/configure.log" 2>&1 ||
        { cat "$build/configure.log" >&2; fail "CMake could not configure"; }
    : >"$build/build.log"
    cmake --build "$build" --target $target 2>&1 | show_progress ||
        { grep -E 'error|FAILED' -A 5 "$build/build.log" >&2 || tail -n 40 "$build/build.log" >&2; fail "the build failed"; }
    echo "$now" >"$build/.built-$what"
}

# Each target from a seed of its own, which is printed; what it found is kept in the build's directory.
fuzz() {
    local target seconds=${FUZZ_SECONDS:-60} seed
    preset=${BUILD:-fuzz} build=build/${BUILD:-fuzz}
    [[ $preset = fuzz || $preset = asan ]] || fail "BUILD=$preset has no fuzz targets; expected fuzz or asan"
    set_up all
    rm -f "$build"/tests/fuzz/*.failed
    for target in "$build"/tests/fuzz/fuzz_*; do
        [ -x "$target" ] && [ -f "$target" ] || continue
        [ "$(jobs -rp | wc -l)" -lt 2 ] || wait -n || true  # two at a time
        seed=${FUZZ_SEED:-$RANDOM}
        mkdir -p "$target.corpus"
        echo "$(basename "$target"): $seconds s from seed $seed" >&2
        (
            "$target" -seed="$seed" -max_total_time="$seconds" -timeout=20 -rss_limit_mb=2048 -print_final_stats=0 \
                -verbosity=0 -artifact_prefix="$target." "$target.corpus" "tests/fuzz/corpus/$(basename "$target")" \
                >"$target.log" 2>&1 ||
                { tail -n 30 "$target.log" >&2; touch "$target.failed"; }
        ) &
    done
    wait
    for target in "$build"/tests/fuzz/*.failed; do
        [ ! -f "$target" ] || fail "$(basename "$target" .failed) found a fault; replay it with ${target%.failed} FILE"
    done
}

# One step of the guide, by its number.
guide() {
    local step
    step=$(basename "$(compgen -G "examples/guide/${1:-none}_*.cpp" || true)" .cpp)
    [ -n "$step" ] || fail "guide: found \"${1:-}\"; expected the number of a step, 1 to 8"
    shift
    set_up "guide_$step"
    exec "$build/examples/guide_$step" "$@"
}

# Event devices of a real kernel, in a machine of its own; skipped, with a word, where QEMU or a kernel cannot be had.
test_kernel() {
    local code=0 path along=()
    # A window is played with pads of the kernel, on an X server of its own.
    for path in "$build/examples/quay_window" examples/quay_window/quay_window.toml "$(command -v Xvfb)" \
        "$(command -v xkbcomp)" /usr/share/X11/{xkb,locale} /etc/fonts /usr/share/fonts/truetype/dejavu; do
        [ ! -e "$path" ] || along+=(--with "$path")
    done
    python3 tests/kernel/boot.py "${XDG_CACHE_HOME:-$HOME/.cache}/cursorum" "${along[@]}" "$build/tests/kernel_tests" "$@" ||
        code=$?
    [ "$code" = 77 ] || exit "$code"
}

# A warning of doxygen's is an error.
write_reference() {
    mkdir -p build/docs
    doxygen docs/Doxyfile >build/docs/log 2>&1 || { cat build/docs/log >&2; fail "the reference has faults"; }
    echo "build/docs/html/index.html"
}

# Debian packages of this version, from shared libraries.
package() {
    preset=release build=build/package
    set_up package
    (cd "$build" && cpack >cpack.log 2>&1) || { cat "$build/cpack.log" >&2; fail "the packages could not be made"; }
    ls -sh "$build"/*.deb
}

# Core and actions on another system: their tests, and frames that are the same to the bit.
test_windows() {
    preset=windows build=build/windows
    # It shows no window and asks nothing, and its system is in the build's folder.
    export WINEPREFIX=$PWD/$build/wine WINEDEBUG=-all WINEDLLOVERRIDES="mscoree,mshtml="
    set_up all
    ctest --test-dir "$build" --output-on-failure --parallel 2 -R '^(core|actions|threads)_tests$|^determinism$' "$@"
}

case ${1:-} in
    demo) set_up demo; shift; exec "$build/tools/cursorum/cursorum_demo" "$@" ;;
    tool) set_up tool; shift; exec "$build/tools/cursorum/cursorum" "$@" ;;
    guide) shift; guide "$@" ;;
    play) set_up window; shift; exec "$build/examples/quay_window" "$@" ;;
    test) set_up all; shift; exec ctest --test-dir "$build" --output-on-failure --parallel 2 "$@" ;;
    bench) set_up all; shift; exec "$build/bench/cursorum_bench" "$@" ;;
    fuzz) fuzz ;;
    test-kernel) set_up all; shift; test_kernel "$@" ;;
    test-windows) shift; test_windows "$@" ;;
    docs) install_packages packages.txt packages-window.txt packages-test.txt; write_reference ;;
    abi) install_packages packages.txt packages-window.txt packages-test.txt; exec tools/abi.sh write build/abi ;;
    mutants) install_packages packages.txt packages-window.txt packages-test.txt; shift
        exec python3 tests/mutants/run.py . build/mutants "$@" ;;
    package) package ;;
    amalgamate) exec python3 tools/amalgamate.py . "${2:-build/amalgamated}" ;;
    setup) set_up all ;;
    *) sed -n '2,18p' "$0" | cut -c3-; exit 2 ;;
esac
