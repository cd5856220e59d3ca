// Looks through a TOML text for keys that the TOML reader must not meet: it asserts on some of them instead of
// reporting an error. Called before it on every file.
#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace cursorum {

struct BadKey {
    unsigned line = 0;  ///< from 1
    std::string found;
    enum class Fault { key, depth, continuation } fault = Fault::key;
};

inline constexpr unsigned toml_depth = 64;

/// The first place where a key should be and none can be: not a letter, digit, underscore, hyphen or quote; or the
/// first character outside ASCII that is in no string and no comment; or the first array nested too deeply; or a letter
/// outside ASCII that follows a backslash, or the line break behind one, in a text of several lines. Nothing if there
/// is none; the TOML reader reports everything else.
std::optional<BadKey> find_bad_key(std::string_view text);

}  // namespace cursorum
