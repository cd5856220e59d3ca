# What every target of the project has in common; nothing is set globally.

# Many x86-64 processors decode a jump anew each time if it crosses or ends at a 32-byte boundary (an erratum of theirs,
# "Jump Conditional Code"): a tenth of a frame's time, and as much between one build and the next. The assembler can keep
# jumps away from there; an older one, or another processor's, goes without.
include(CheckCXXCompilerFlag)
foreach(option -Wa,-mbranches-within-32B-boundaries -mbranches-within-32B-boundaries)
  string(MAKE_C_IDENTIFIER "CURSORUM_HAS${option}" has_option)
  if(CMAKE_SYSTEM_PROCESSOR MATCHES "x86_64|AMD64" AND NOT CURSORUM_JUMP_OPTION)
    check_cxx_compiler_flag(${option} ${has_option})
    if(${has_option})
      set(CURSORUM_JUMP_OPTION ${option})
    endif()
  endif()
endforeach()

function(cursorum_target target)
  target_compile_features(${target} PUBLIC cxx_std_20)
  set_target_properties(${target} PROPERTIES CXX_EXTENSIONS OFF)
  target_compile_options(${target} PRIVATE -Wall -Wextra -Wpedantic -Wconversion -Wshadow -Wnon-virtual-dtor
    -Wold-style-cast -Wcast-align -Woverloaded-virtual -Wnull-dereference)
  if(CMAKE_CXX_COMPILER_ID STREQUAL "GNU" AND CMAKE_CXX_COMPILER_VERSION VERSION_LESS 13)
    # gcc 12 sees overlaps in std::string's operator+ that are not there (its bug 105651).
    target_compile_options(${target} PRIVATE -Wno-restrict)
  endif()
  if(CMAKE_CXX_COMPILER_ID STREQUAL "Clang")
    # Conditions without a branch are on purpose.
    target_compile_options(${target} PRIVATE -Wno-bitwise-instead-of-logical)
  endif()
  target_compile_options(${target} PRIVATE ${CURSORUM_JUMP_OPTION})
  # The compiler that all tests are built with decides; another's warnings are read, and stop nothing.
  if(CURSORUM_WARNINGS_AS_ERRORS AND CMAKE_CXX_COMPILER_ID STREQUAL "GNU")
    target_compile_options(${target} PRIVATE -Werror)
  endif()
endfunction()

# Most of a file's compile time is its headers: so files of one target, which must lie in the caller's folder, are compiled
# together in groups. A group takes at most five seconds and, without the
# largest headers (command line, JSON, TOML), less than 300 MB.
function(cursorum_compile_together target group)
  set_target_properties(${target} PROPERTIES UNITY_BUILD ON UNITY_BUILD_MODE GROUP)
  set_source_files_properties(${ARGN} PROPERTIES UNITY_GROUP ${group})
endfunction()

# Checks of each pointer make half of a program's code; the address sanitizer finds what they would lead to. Tests and
# the tool go without them, the floors keep them.
function(cursorum_check_pointers_less target)
  if(CMAKE_CXX_FLAGS MATCHES "-fsanitize=[a-z,]*undefined")
    target_compile_options(${target} PRIVATE -fno-sanitize=null,alignment,object-size,vptr,pointer-overflow)
  endif()
endfunction()

# A floor of the house: library cursorum_NAME, known as cursorum::NAME in this build and when installed.
function(cursorum_floor name)
  add_library(cursorum_${name} ${ARGN})
  add_library(cursorum::${name} ALIAS cursorum_${name})
  set_target_properties(cursorum_${name} PROPERTIES EXPORT_NAME ${name}
    CXX_VISIBILITY_PRESET hidden VISIBILITY_INLINES_HIDDEN ON
    VERSION ${PROJECT_VERSION} SOVERSION ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
  # Static floors, too, can be linked into a shared library, such as a game module that the engine loads. It costs no time
  # that can be measured, as long as functions of one file may be inlined into each other.
  set_target_properties(cursorum_${name} PROPERTIES POSITION_INDEPENDENT_CODE ON)
  check_cxx_compiler_flag(-fno-semantic-interposition CURSORUM_HAS_NO_SEMANTIC_INTERPOSITION)
  if(CURSORUM_HAS_NO_SEMANTIC_INTERPOSITION)
    target_compile_options(cursorum_${name} PRIVATE -fno-semantic-interposition)
  endif()
  if(BUILD_SHARED_LIBS)
    # Shared floors lie beside each other, wherever the installation is moved to.
    set_target_properties(cursorum_${name} PROPERTIES INSTALL_RPATH "$ORIGIN")
    target_compile_definitions(cursorum_${name} PRIVATE CURSORUM_BUILDS_SHARED INTERFACE CURSORUM_SHARED)
    if(CMAKE_SYSTEM_NAME STREQUAL "Linux")
      # The standard library's templates would be exported as well.
      set(map ${PROJECT_SOURCE_DIR}/cmake/exported.map)
      target_link_options(cursorum_${name} PRIVATE LINKER:--version-script=${map})
      set_property(TARGET cursorum_${name} APPEND PROPERTY LINK_DEPENDS ${map})
    endif()
  endif()
  target_include_directories(cursorum_${name}
    PUBLIC $<BUILD_INTERFACE:${PROJECT_SOURCE_DIR}/include> $<INSTALL_INTERFACE:${CMAKE_INSTALL_INCLUDEDIR}>
    PRIVATE ${PROJECT_SOURCE_DIR}/src)
  cursorum_target(cursorum_${name})
  set_property(GLOBAL APPEND PROPERTY CURSORUM_FLOORS cursorum_${name})
endfunction()

# An installed program: it finds shared floors from where it lies, so an installation may be moved.
function(cursorum_program target)
  cursorum_target(${target})
  if(BUILD_SHARED_LIBS)
    file(RELATIVE_PATH floors_from_programs "/p/${CMAKE_INSTALL_BINDIR}" "/p/${CMAKE_INSTALL_LIBDIR}")
    set_target_properties(${target} PROPERTIES INSTALL_RPATH "$ORIGIN/${floors_from_programs}")
  endif()
endfunction()
