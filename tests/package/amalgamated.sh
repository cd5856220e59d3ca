#!/usr/bin/env bash
# The core as one header and one source file: compiled as an engine without a build system does, used from two files,
# and run. amalgamated.sh ROOT FOLDER COMPILER HELLO: prints nothing if the program does what HELLO does.
set -euo pipefail
root=$1 folder=$2 compiler=$3 hello=$4
rm -rf "$folder"
python3 "$root/tools/amalgamate.py" "$root" "$folder" >/dev/null
cd "$folder"
sed 's|cursorum/cursorum.hpp|cursorum.hpp|' "$root/examples/hello.cpp" >main.cpp
echo '#include "cursorum.hpp"' >other.cpp
"$compiler" -std=c++20 -O0 -Wall -Wextra -Werror -fno-exceptions -fno-rtti -ffp-contract=off -o program main.cpp other.cpp cursorum.cpp
diff <(./program) <("$hello")
