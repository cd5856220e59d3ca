#!/usr/bin/env python3
"""Writes the core as one header and one source file, for programs that take it without a build system.

    amalgamate.py ROOT OUTPUT

Writes OUTPUT/cursorum.hpp and OUTPUT/cursorum.cpp from ROOT/include/cursorum/core and ROOT/src/core. Nothing else is
needed: compile the source file as C++20 along with the program.
"""

import os
import re
import sys

OWN = re.compile(r'#include "((?:cursorum/)?core/[^"]+|cursorum/cursorum\.hpp)"')
SYSTEM = re.compile(r"#include <[^>]+>")
# Lists of macro calls, included anew wherever they are used.
LISTS = {"core/controls/control_list.hpp", "core/controls/derived_control_list.hpp"}


class Amalgamation:
    def __init__(self, root):
        self.root = root
        self.done = set()
        self.system = set()

    def path_of(self, name):
        folder = "include" if name.startswith("cursorum/") else "src"
        return os.path.join(self.root, folder, name)

    def text_of(self, path):
        """A file with its own includes in place of the lines that name them, each once."""
        lines = []
        depth = 0  # of conditions: what is included under one stays there
        with open(path, encoding="utf-8") as file:
            for line in file.read().splitlines():
                depth += line.startswith(("#if", "#ifdef", "#ifndef"))
                depth -= line.startswith("#endif")
                own = OWN.match(line)
                if own:
                    lines += self.included(own[1])
                elif depth == 0 and SYSTEM.match(line):
                    self.system.add(line)
                elif line != "#pragma once":
                    lines.append(line)
        return lines

    def included(self, name):
        if name in LISTS:
            return self.text_of(self.path_of(name))
        if name in self.done:
            return []
        self.done.add(name)
        return self.text_of(self.path_of(name))

    def take_system(self):
        lines = sorted(self.system)
        self.system = set()
        return lines


def sources_of(root):
    """The files of the core's target, in its order."""
    with open(os.path.join(root, "src/CMakeLists.txt"), encoding="utf-8") as file:
        # The list of the floor; the groups below it, in which files are compiled, name them again.
        listed = re.search(r"cursorum_floor\(core\n(.*?)\)", file.read(), re.DOTALL)
        found = re.findall(r"core/[\w/]+\.cpp", listed[1]) if listed else []
    if not found:
        sys.exit("src/CMakeLists.txt: found no file of the core; expected lines such as core/frame.cpp")
    return found


def write(path, lines):
    text = re.sub(r"\n{3,}", "\n\n", "\n".join(lines) + "\n")
    part = path + ".part"
    with open(part, "w", encoding="utf-8") as file:
        file.write(text)
    os.replace(part, path)


def main():
    if len(sys.argv) != 3 or sys.argv[1] in ("-h", "--help"):
        sys.exit(__doc__)
    root, output = sys.argv[1:]
    with open(os.path.join(root, "include/cursorum/core/version.hpp"), encoding="utf-8") as file:
        version = re.search(r'CURSORUM_VERSION "([^"]+)"', file.read())[1]
    with open(os.path.join(root, "LICENSE"), encoding="utf-8") as file:
        licence = ["// " + line if line else "//" for line in file.read().splitlines()]
    head = [f"// Cursorum {version}, the core alone, in one header and one source file. Generated: do not edit.",
            "//",
            "// Compile cursorum.cpp as C++20 along with the program; where the processor has fused multiply-add, with",
            "// -ffp-contract=off, so that sticks are shaped the same to the bit everywhere.",
            "//"]
    head += licence
    os.makedirs(output, exist_ok=True)

    code = Amalgamation(root)
    header = code.included("cursorum/cursorum.hpp")
    for name in sorted(os.listdir(os.path.join(root, "include/cursorum/core"))):
        if name.endswith(".hpp"):
            header += code.included(f"cursorum/core/{name}")
    write(os.path.join(output, "cursorum.hpp"), head + ["#pragma once", ""] + code.take_system() + [""] + header)

    body = []
    for name in sources_of(root):
        body += ["", f"// ---- {name}"] + code.text_of(os.path.join(root, "src", name))
    write(os.path.join(output, "cursorum.cpp"),
          head + ['#include "cursorum.hpp"', ""] + code.take_system() + body)
    print(f"{output}/cursorum.hpp and {output}/cursorum.cpp: compile the latter as C++20 along with the program")


if __name__ == "__main__":
    main()
