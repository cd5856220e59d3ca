# Debian's compiler for Windows, and wine to run what it makes: for tests of what is on any system (./run.sh test-windows).
set(CMAKE_SYSTEM_NAME Windows)
set(CMAKE_SYSTEM_PROCESSOR x86_64)
set(CMAKE_CXX_COMPILER x86_64-w64-mingw32-g++-posix)
set(CMAKE_C_COMPILER x86_64-w64-mingw32-gcc-posix)
set(CMAKE_RC_COMPILER x86_64-w64-mingw32-windres)
set(CMAKE_EXE_LINKER_FLAGS_INIT -static)
set(CMAKE_FIND_ROOT_PATH /usr/x86_64-w64-mingw32)
set(CMAKE_FIND_ROOT_PATH_MODE_LIBRARY ONLY)
set(CMAKE_FIND_ROOT_PATH_MODE_INCLUDE ONLY)
set(CMAKE_FIND_ROOT_PATH_MODE_PACKAGE ONLY)
find_program(CMAKE_CROSSCOMPILING_EMULATOR NAMES wine64 wine64-stable PATHS /usr/lib/wine)

# Headers only, so the host's will do; the rest of the host's headers must stay out of sight.
file(MAKE_DIRECTORY ${CMAKE_BINARY_DIR}/toml)
file(CREATE_LINK /usr/include/toml++ ${CMAKE_BINARY_DIR}/toml/toml++ SYMBOLIC)
set(TOMLPLUSPLUS_INCLUDE_DIR ${CMAKE_BINARY_DIR}/toml)
