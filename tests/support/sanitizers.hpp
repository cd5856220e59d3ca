// Which sanitizers a test runs under: what is played ten thousand times in a release is played less often there. GCC
// says it by macros, Clang by features.
#pragma once

namespace test {

#if defined(__has_feature)
inline constexpr bool under_address_sanitizer = __has_feature(address_sanitizer);
inline constexpr bool under_thread_sanitizer = __has_feature(thread_sanitizer);
#else
#if defined(__SANITIZE_ADDRESS__)
inline constexpr bool under_address_sanitizer = true;
#else
inline constexpr bool under_address_sanitizer = false;
#endif
#if defined(__SANITIZE_THREAD__)
inline constexpr bool under_thread_sanitizer = true;
#else
inline constexpr bool under_thread_sanitizer = false;
#endif
#endif
inline constexpr bool under_any_sanitizer = under_address_sanitizer || under_thread_sanitizer;

}  // namespace test
