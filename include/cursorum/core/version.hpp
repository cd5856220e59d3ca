// The version, the one place where it stands (CMake reads it from here).
#pragma once

#define CURSORUM_VERSION "0.2.0"
