# cursorum_action_header(TARGET PROFILE FILE NAMESPACE NAME): a header NAME.hpp of handles from a profile, made at build
# time and found by `#include "NAME.hpp"` in TARGET:
#
#   cursorum_action_header(game PROFILE quay.toml NAMESPACE quay_actions)
#   …
#   if (actions[quay_actions::crane::lock].pressed()) …       // an action that the profile lacks does not compile
function(cursorum_action_header target)
  cmake_parse_arguments(arg "" "PROFILE;NAMESPACE" "" ${ARGN})
  if(NOT arg_PROFILE OR NOT arg_NAMESPACE)
    message(FATAL_ERROR "cursorum_action_header: expected (TARGET PROFILE FILE NAMESPACE NAME)")
  endif()
  get_filename_component(profile ${arg_PROFILE} ABSOLUTE BASE_DIR ${CMAKE_CURRENT_SOURCE_DIR})
  set(folder ${CMAKE_CURRENT_BINARY_DIR}/${target}_actions)
  set(header ${folder}/${arg_NAMESPACE}.hpp)
  file(MAKE_DIRECTORY ${folder})
  add_custom_command(OUTPUT ${header} DEPENDS ${profile} cursorum::action_header VERBATIM
    COMMAND cursorum::action_header ${profile} ${arg_NAMESPACE} ${header}
    COMMENT "Handles of the actions in ${arg_PROFILE}")
  target_sources(${target} PRIVATE ${header})
  target_include_directories(${target} PRIVATE ${folder})
endfunction()
