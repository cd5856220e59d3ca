# Installed: the floors that were built, their headers, a CMake config package, a pkg-config file for the core.
include(CMakePackageConfigHelpers)

get_property(floors GLOBAL PROPERTY CURSORUM_FLOORS)
install(TARGETS ${floors} EXPORT cursorum)
install(DIRECTORY include/cursorum/core DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/cursorum)
install(FILES include/cursorum/cursorum.hpp DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/cursorum)
if(CURSORUM_RECORDING)
  install(DIRECTORY include/cursorum/recording DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/cursorum)
endif()
if(CURSORUM_X11)
  install(DIRECTORY include/cursorum/sources DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/cursorum)
endif()
if(CURSORUM_VIEWS)
  install(DIRECTORY include/cursorum/views DESTINATION ${CMAKE_INSTALL_INCLUDEDIR}/cursorum)
endif()

set(package_dir ${CMAKE_INSTALL_LIBDIR}/cmake/cursorum)
install(EXPORT cursorum NAMESPACE cursorum:: DESTINATION ${package_dir} FILE cursorum-targets.cmake)
configure_package_config_file(cmake/cursorum-config.cmake.in cursorum-config.cmake INSTALL_DESTINATION ${package_dir})
write_basic_package_version_file(cursorum-config-version.cmake COMPATIBILITY SameMinorVersion)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/cursorum-config.cmake ${CMAKE_CURRENT_BINARY_DIR}/cursorum-config-version.cmake
        DESTINATION ${package_dir})

configure_file(cmake/cursorum.pc.in cursorum.pc @ONLY)
install(FILES ${CMAKE_CURRENT_BINARY_DIR}/cursorum.pc DESTINATION ${CMAKE_INSTALL_LIBDIR}/pkgconfig)
