// Where the sticks and triggers of a recording rest, and the shaping that follows.
#pragma once

#include <cstdint>
#include <optional>
#include <string>

#include "cursorum/views/text.hpp"

namespace cursorum::tool {

struct RestRequest {
    std::string file, as;
    std::optional<std::uint32_t> device;  ///< only this one
    std::string format;                   ///< table, csv or jsonl: a recording of nothing but shaping
    bool strict = false;
};

/// Empty if no stick or trigger of the recording was moved.
TerminalText rest_report(const RestRequest& request);

}  // namespace cursorum::tool
