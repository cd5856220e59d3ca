// Why an action's state in a frame is what it is, in sentences.
#pragma once

#include <cstdint>
#include <string>

#include "cursorum/actions/action_reader.hpp"

namespace cursorum::tool {

/// An action of a profile: its place in it, as handles count.
struct ActionPlace {
    std::uint8_t mode = 0;
    std::uint16_t number = 0;
    const Mode* of = nullptr;
    const Action* action = nullptr;
};

/// By "mode.action", or by the action's name alone if only one mode has it. UsageError: which names are near.
ActionPlace action_named(const Profile& profile, const std::string& name);

/// A button that it is bound to was down within the frame.
bool has_news(const ActionPlace& place, const Frame& frame);

/// What the reader made of the frame that it read last. `where`: "frame 402 of FILE", `command`: how to ask for more of
/// one button but for its name. Lines, the last one ended.
std::string explain_action(const ActionReader& reader, const Profile& profile, const ActionPlace& place,
                           const Frame& frame, const std::string& where, const std::string& command, bool colour);

/// The same as one JSON object in a line: `action`, `frame`, `t0`, `t1`, `summary`, and `sections`, each with its
/// `title` and `lines`.
std::string explained_as_json(const std::string& action, std::uint64_t number, const Frame& frame,
                              const std::string& text);

}  // namespace cursorum::tool
