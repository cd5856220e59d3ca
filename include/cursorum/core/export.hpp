// What a shared library of Cursorum exports.
#pragma once

/// Stands before everything that a program may call and that is not inline. The libraries are compiled with hidden
/// visibility, so that nothing else is exported. On Windows, define CURSORUM_SHARED where you use shared libraries of
/// Cursorum; CMake's targets do so.
#if defined(_WIN32)
#if defined(CURSORUM_BUILDS_SHARED)
#define CURSORUM_API __declspec(dllexport)
#elif defined(CURSORUM_SHARED)
#define CURSORUM_API __declspec(dllimport)
#else
#define CURSORUM_API
#endif
#else
#define CURSORUM_API __attribute__((visibility("default")))
#endif

/// For what is a few instructions, also where a function asks so often that the compiler would rather call it.
#if defined(__GNUC__)
#define CURSORUM_INLINE __attribute__((always_inline)) inline
#else
#define CURSORUM_INLINE inline
#endif
