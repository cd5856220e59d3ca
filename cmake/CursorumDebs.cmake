# Debian packages, by `./run.sh package`: the shared libraries, what is needed to build with them, and the tool.
set(abi_version ${PROJECT_VERSION_MAJOR}.${PROJECT_VERSION_MINOR})
set(CPACK_GENERATOR DEB)
set(CPACK_PACKAGING_INSTALL_PREFIX /usr)
set(CPACK_PACKAGE_CONTACT "The Cursorum authors <cursorum@example.org>")
set(CPACK_PACKAGE_HOMEPAGE_URL "https://cursorum.example.org")
set(CPACK_DEB_COMPONENT_INSTALL ON)
set(CPACK_COMPONENTS_ALL library development tool)
set(CPACK_DEBIAN_FILE_NAME DEB-DEFAULT)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS ON)
set(CPACK_DEBIAN_PACKAGE_SHLIBDEPS_PRIVATE_DIRS ${PROJECT_BINARY_DIR}/src)
set(CPACK_DEBIAN_PACKAGE_GENERATE_SHLIBS ON)

set(CPACK_DEBIAN_LIBRARY_PACKAGE_NAME libcursorum${abi_version})
set(CPACK_DEBIAN_LIBRARY_PACKAGE_SECTION libs)
set(CPACK_DEBIAN_LIBRARY_DESCRIPTION "raw keyboard, mouse and gamepad input in, exact frames out
 Once per picture or simulation tick, a game learns what was pressed, held,
 released and repeated, to the nanosecond. These are the shared libraries.")

set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_NAME libcursorum-dev)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_SECTION libdevel)
set(CPACK_DEBIAN_DEVELOPMENT_PACKAGE_DEPENDS "libcursorum${abi_version} (= ${PROJECT_VERSION})")
set(CPACK_DEBIAN_DEVELOPMENT_DESCRIPTION "raw input in, exact frames out: what is needed to build with it
 Headers, which are the manual, packages for CMake and pkg-config, the
 generator of action headers, and the documents.")

set(CPACK_DEBIAN_TOOL_PACKAGE_NAME cursorum)
set(CPACK_DEBIAN_TOOL_PACKAGE_SECTION devel)
set(CPACK_DEBIAN_TOOL_PACKAGE_DEPENDS "libcursorum${abi_version} (= ${PROJECT_VERSION})")
set(CPACK_DEBIAN_TOOL_DESCRIPTION "raw input in, exact frames out: the command-line tool
 Recordings of keyboards, mice and gamepads: made, cut into frames, explained,
 drawn, compared, and live input in the terminal.")
set(CPACK_STRIP_FILES ON)
include(CPack)
