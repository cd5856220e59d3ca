#!/usr/bin/env python3
"""Instructions of the bench's main rows, by callgrind, against the limits in instructions.txt.

    instructions.py PROGRAM LIMITS [--set]   PROGRAM: cursorum_instruction_rows; --set writes the file anew

A row is run 200 times and 400 times more; the difference, divided by 400, is what one costs: without start and noise. A row
that costs 2 % less than its figure is reported, so that the limit follows; above 2 % more, the run fails.
"""
import concurrent.futures
import os
import pathlib
import re
import subprocess
import sys

FEW, MORE, SLACK = 200, 400, 0.02


def collected(program, row, count):
    done = subprocess.run(["valgrind", "--tool=callgrind", "--callgrind-out-file=/dev/null", program, row, str(count)],
                          capture_output=True, text=True)
    found = re.search(r"Collected : (\d+)", done.stderr)
    if done.returncode != 0 or not found:
        sys.exit(f"instructions: {row} failed:\n{done.stderr[-2000:]}")
    return int(found[1])


def cost(program, row):
    return (collected(program, row, FEW + MORE) - collected(program, row, FEW)) / MORE


def main():
    program, limits = sys.argv[1], pathlib.Path(sys.argv[2])
    rows = subprocess.run([program], capture_output=True, text=True, check=True).stdout.split()
    known = dict(re.findall(r"^(\S+) +(\d+)", limits.read_text(), re.M)) if limits.exists() else {}
    with concurrent.futures.ThreadPoolExecutor(os.cpu_count()) as pool:
        costs = dict(zip(rows, pool.map(lambda row: cost(program, row), rows)))
    if "--set" in sys.argv:
        limits.write_text("# Instructions of one round of each row: g++ 12, -O3, x86-64. Made by `instructions.py … --set`.\n"
                          + "".join(f"{row:34}{costs[row]:9.0f}\n" for row in rows))
        return 0
    failed = [row for row in rows if row not in known] + [row for row in known if row not in rows]
    for row in failed:
        print(f"{row}: found in one of program and limits only; expected in both")
    for row in rows:
        limit = int(known.get(row, 0))
        if not limit:
            continue
        share = costs[row] / limit - 1
        note = "TOO MANY" if share > SLACK else "fewer: set the limit anew" if share < -SLACK else ""
        print(f"{row:34}{costs[row]:9.0f} of {limit:7d}  {100 * share:+5.1f} %  {note}")
        if share > SLACK:
            failed.append(row)
    return 1 if failed else 0


sys.exit(main())
