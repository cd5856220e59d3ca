#!/usr/bin/env python3
"""Runs the tests of core and actions against each mutant of mutants.txt, and names those that survive.

    run.py ROOT FOLDER [WORD…]   ROOT: the project; FOLDER: for the build; WORD: only mutants with all of them in rule or file

All mutants are compiled into one build; the environment variable MUTANT switches one of them on. Each is run against quick
tests first, and against the random ones only if it survives them. A test that fails, crashes or takes ten times as long
kills it. Ends with 1 if a mutant survives that mutants.txt does not call equivalent.
"""
import concurrent.futures
import os
import pathlib
import re
import shutil
import subprocess
import sys
import time

SWITCH = """#pragma once
#include <cstdlib>
inline const int cursorum_mutant = [] {
    const char* const number = std::getenv("MUTANT");
    return number ? std::atoi(number) : 0;
}();
"""
# Quick ones, then what takes its time. A mutant of the core may be killed by the tests of actions, too.
RANDOM_CORE = "RandomStreams.*:*xhaustive*:SeveralInlets.Random*"
RANDOM_ACTIONS = "ActionStreams.*:Rebinding.Nothing*:ModesOfActions.AreTheSame*:Overlay.IsWhat*:BindingText.OfWhatever*"
STAGES = [("core_tests", "-" + RANDOM_CORE), ("actions_tests", "-" + RANDOM_ACTIONS),
          ("core_tests", RANDOM_CORE), ("actions_tests", RANDOM_ACTIONS)]


def fail(message):
    print(f"mutants: {message}", file=sys.stderr)
    sys.exit(2)


def read_mutants(path):
    mutants = []
    for block in re.split(r"^== ", path.read_text(), flags=re.M)[1:]:
        head, *lines = block.rstrip("\n").split("\n")
        file, rule = head.split(": ", 1)
        old = "\n".join(line[1:] for line in lines if line.startswith("-"))
        new = "\n".join(line[1:] for line in lines if line.startswith("+"))
        mutants.append({"number": len(mutants) + 1, "file": file, "rule": rule, "old": old, "new": new,
                        "equivalent": "(equivalent:" in rule})
    return mutants


def make_tree(root, folder, mutants):
    tree = folder / "tree"
    shutil.rmtree(tree, ignore_errors=True)
    for part in ("include", "src", "cmake", "tests", "tools/action_header", "docs", "examples", "demo", "bench"):
        shutil.copytree(root / part, tree / part)
    for file in ("CMakeLists.txt", "CMakePresets.json", "LICENSE", "README.md", "CHANGELOG.md"):
        shutil.copy(root / file, tree / file)
    (tree / "mutant.hpp").write_text(SWITCH)
    for it in mutants:
        path = tree / "src" / it["file"]
        text = path.read_text()
        if text.count(it["old"]) != 1:
            fail(f'{it["file"]}: found {text.count(it["old"])} places for "{it["rule"]}"; expected exactly one of\n{it["old"]}')
        path.write_text(text.replace(it["old"], it["new"].replace("MUT", f'(cursorum_mutant == {it["number"]})')))
    return tree


def build(tree, folder):
    off = [f"-DCURSORUM_{part}=OFF" for part in
           "BATCH RECORDING HID X11 EVDEV DUMPS VIEWS WHY TOOL EXAMPLES BENCH INSTALL".split()]
    made = folder / "build"
    for command in (["cmake", "-S", tree, "-B", made, "-G", "Ninja", "-DCMAKE_BUILD_TYPE=None",
                     f"-DCMAKE_CXX_FLAGS=-O1 -w -include {tree}/mutant.hpp", *off],
                    ["cmake", "--build", made, "--target", "core_tests", "actions_tests"]):
        done = subprocess.run(command, capture_output=True, text=True)
        if done.returncode != 0:
            fail(f"the build failed:\n{(done.stdout + done.stderr)[-3000:]}")
    return made / "tests"


def run(tests, program, filter_, mutant, limit):
    """True if it passes."""
    try:
        return subprocess.run([tests / program, "--gtest_brief=1", "--gtest_fail_fast", f"--gtest_filter={filter_}"],
                              env=dict(os.environ, MUTANT=str(mutant), CURSORUM_TEST_PROGRAMS="2000"), stdout=subprocess.DEVNULL,
                              stderr=subprocess.DEVNULL, timeout=limit).returncode == 0
    except subprocess.TimeoutExpired:
        return False


def main():
    if len(sys.argv) < 3:
        fail("expected ROOT FOLDER [WORD…]; for example: run.py . build/mutants claim")
    root, folder = pathlib.Path(sys.argv[1]).resolve(), pathlib.Path(sys.argv[2]).resolve()
    words = [word.lower() for word in sys.argv[3:]]
    mutants = read_mutants(root / "tests/mutants/mutants.txt")
    chosen = [it for it in mutants if not it["equivalent"] and
              all(word in f'{it["file"]} {it["rule"]}'.lower() for word in words)]
    if not chosen:
        fail(f"no mutant has {' '.join(words)} in its rule or file")
    folder.mkdir(parents=True, exist_ok=True)
    tests = build(make_tree(root, folder, mutants), folder)
    limits = []
    for program, filter_ in STAGES:  # how long each takes without a mutant
        begin = time.monotonic()
        if not run(tests, program, filter_, 0, None):
            fail(f"{program} --gtest_filter={filter_} fails without a mutant")
        limits.append(10 * (time.monotonic() - begin) + 10)

    def kill(it):
        stages = list(zip(STAGES, limits))
        if it["file"].startswith("actions/"):
            stages = [stage for stage in stages if stage[0][0] == "actions_tests"]
        return next((f"{program} {filter_}" for (program, filter_), limit in stages
                     if not run(tests, program, filter_, it["number"], limit)), None)

    survivors = []
    with concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
        for done, (it, by) in enumerate(zip(chosen, pool.map(kill, chosen)), 1):
            if not by:
                survivors.append(it)
                print(f'SURVIVES  {it["number"]:3}  {it["file"]}: {it["rule"]}', flush=True)
            if sys.stderr.isatty():
                print(f"\r{done} of {len(chosen)}, {len(survivors)} survive \033[K", end="", file=sys.stderr)
    equivalent = sum(it["equivalent"] for it in mutants)
    print(f"{len(chosen)} mutants, {len(chosen) - len(survivors)} killed, {len(survivors)} survive; "
          f"{equivalent} more are equivalent to the rules as they are.")
    return 1 if survivors else 0


if __name__ == "__main__":
    sys.exit(main())
