// Frames of a game's own test as lines, kept in a file and compared later: two lines differ if their members do, and
// the first difference is worded as what was kept and what came.
#include "cursorum/why/frame_lines.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cerrno>
#include <cstring>
#include <fstream>
#include <nlohmann/json.hpp>
#include <utility>

#include "cursorum/recording/replay.hpp"
#include "cursorum/views/frame_views.hpp"
#include "cursorum/views/text.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "recording/json_depth.hpp"
#include "recording/line_reader.hpp"
#include "views/shown.hpp"

namespace cursorum {

// ---- lines

struct FrameLines::Parts {
    Parts(std::istream& in, std::string name, const FrameLineOptions& given)
        : options{given}, replay{in, std::move(name), replay_options()} {
        if (options.profile) reader.emplace(*options.profile);
    }

    ReplayOptions replay_options() {
        ReplayOptions own;
        own.rate = options.rate;
        if (!own.rate && !options.uses_own_cuts) own.rate = ExactRate{};
        own.repeat = options.repeat;
        own.on_line = [this](const RecordingLine& line, Outcome) {
            if (options.modes.empty()) calls.note(line);
        };
        return own;
    }

    bool try_open_modes() {
        const Profile& profile = *options.profile;
        std::vector<std::string> names = options.modes;
        if (names.empty() && calls.empty())
            for (const Mode& mode : profile.modes)
                if (!mode.is_covering()) names.push_back(mode.name);
        for (const std::string& name : names) {
            const auto mode = reader->find_mode(name, &error);
            if (!mode) return false;
            reader->open(*mode);
        }
        return true;
    }

    bool next(std::string& line) {
        if (!error.empty()) return false;
        const Frame* const frame = replay.next();
        if (!frame) {
            if (replay.error()) error = replay.error()->message();
            return false;
        }
        if (reader) {
            if (!std::exchange(has_opened, true) && !try_open_modes()) return false;
            calls.read(*reader, *frame);
            line = actions_as_jsonl(replay.frame_number(), *reader, *options.profile);
        } else {
            line = frame_as_jsonl(replay.frame_number(), *frame, replay.timeline(), {});
        }
        line.pop_back();
        return true;
    }

    FrameLineOptions options;
    ReplayedCalls calls;
    Replay replay;
    std::optional<ActionReader> reader;
    bool has_opened = false;
    std::string error;
};

FrameLines::FrameLines(std::istream& recording, std::string name, const FrameLineOptions& options)
    : parts_{std::make_unique<Parts>(recording, std::move(name), options)} {}
FrameLines::~FrameLines() = default;
bool FrameLines::next(std::string& line) { return parts_->next(line); }
const std::string& FrameLines::error() const noexcept { return parts_->error; }

// ---- kept lines

struct KeptFrames::Parts {
    static constexpr std::size_t longest_line = std::size_t{16} << 20;
    LineReader lines;
    std::string name, error;

    bool fail(const std::string& found, const std::string& expected) {
        error = name + ":" + std::to_string(lines.number()) + ": found " + found + "; expected " + expected;
        return false;
    }
};

KeptFrames::KeptFrames(std::istream& kept, std::string name)
    : parts_{new Parts{LineReader{kept, Parts::longest_line}, std::move(name), {}}} {}
KeptFrames::~KeptFrames() = default;
const std::string& KeptFrames::error() const noexcept { return parts_->error; }

bool KeptFrames::next(std::string& line) {
    Parts& parts = *parts_;
    if (!parts.error.empty()) return false;
    std::string_view text;
    switch (parts.lines.next(text)) {
        case LineReader::Result::line: break;
        case LineReader::Result::end: return false;
        case LineReader::Result::failed: return parts.fail("a file that cannot be read on", "a readable file");
        case LineReader::Result::too_long:
            return parts.fail("a line of over 16 MiB",
                              "frames as `cursorum frames FILE --format jsonl` prints them, one per line");
    }
    line = text;
    return true;
}

// ---- differences

namespace {

using nlohmann::ordered_json;
using Entries = std::map<std::string, ordered_json>;

/// The frame's parts by name: each control or action, each axis, and the rest as wholes.
Entries entries_of(const ordered_json& frame) {
    Entries entries;
    if (!frame.is_object()) return {{"the line", frame}};
    const auto text = [](const ordered_json& of, const char* name) -> std::string {
        const auto found = of.find(name);
        return found == of.end()    ? ""
               : found->is_string() ? found->get<std::string>()
                                    : found->dump(-1, ' ', false, ordered_json::error_handler_t::replace);
    };
    for (const auto& [name, value] : frame.items()) {
        const bool is_listed = (name == "controls" || name == "actions" || name == "axes") && value.is_array();
        if (name == "frame") continue;
        if (name == "t0" || name == "t1") {
            entries["its times"][name] = value;
            continue;
        }
        if (!is_listed) {
            entries[name] = value;
            continue;
        }
        for (const ordered_json& entry : value) {
            if (!entry.is_object()) continue;
            const std::string mode = text(entry, "mode"), device = text(entry, "device");
            std::string key =
                name == "actions" ? (mode.empty() ? "" : mode + ".") + text(entry, "action") : text(entry, "control");
            if (!device.empty()) key += " of device " + device;
            entries[key] = entry;
        }
    }
    return entries;
}

/// The members of an entry that are not 0.
std::string shown(const Entries& entries, const std::string& name) {
    const auto found = entries.find(name);
    if (found == entries.end()) return "nothing";
    const ordered_json& entry = found->second;
    const auto dumped = [](const ordered_json& value) {
        return value.dump(-1, ' ', false, ordered_json::error_handler_t::replace);
    };
    if (!entry.is_object()) return dumped(entry);
    std::string text;
    for (const auto& [member, value] : entry.items()) {
        if (member == "control" || member == "action" || member == "mode" || member == "device") continue;
        if (value == 0) continue;
        const bool is_span = member.ends_with("_ns") && value.is_number_integer();
        const std::string one =
            member == "state" && value.is_string() ? value.get<std::string>()
            : is_span ? member.substr(0, member.size() - 3) + " " + span_text(Duration{value.get<std::int64_t>()})
                      : member + " " + dumped(value);
        text += (text.empty() ? "" : ", ") + one;
    }
    return text.empty() ? "at rest" : text;
}

}  // namespace

FrameComparison compare_frame_lines(const std::function<bool(std::string&)>& first,
                                    const std::function<bool(std::string&)>& second) {
    FrameComparison result;
    std::string a, b;
    for (;;) {
        const bool has_a = first(a), has_b = second(b);
        if (!has_a && !has_b) return result;
        if (!has_a || !has_b) {
            ++(has_a ? result.only_in_first : result.only_in_second);
            // The other one has ended and is not read again.
            while (has_a ? first(a) : second(b)) ++(has_a ? result.only_in_first : result.only_in_second);
            return result;
        }
        ++result.frames;
        if (a == b) continue;
        // A line that is not JSON is compared as text.
        const auto parsed = [](const std::string& line) {
            if (detail::is_too_deep(line)) return ordered_json(line);
            ordered_json frame = ordered_json::parse(line, nullptr, false);
            return frame.is_discarded() ? ordered_json(line) : frame;
        };
        const ordered_json frame_a = parsed(a), frame_b = parsed(b);
        Entries of_a = entries_of(frame_a), of_b = entries_of(frame_b);
        if (!frame_a.is_object()) of_b = {{"the line", frame_b}};
        if (!frame_b.is_object()) of_a = {{"the line", frame_a}};
        std::vector<std::string> names;
        for (const auto& [name, entry] : of_a)
            if (const auto other = of_b.find(name); other == of_b.end() || other->second != entry)
                names.push_back(name);
        for (const auto& [name, entry] : of_b)
            if (!of_a.contains(name)) names.push_back(name);
        if (names.empty()) continue;  // the same in other words
        ++result.differing;
        std::sort(names.begin(), names.end());
        for (const std::string& name : names) ++result.by[name];
        if (result.first) continue;
        const ordered_json& known = frame_a.is_object() ? frame_a : frame_b;
        const auto number = [&](const char* member) {
            const auto found = known.is_object() ? known.find(member) : known.end();
            return found != known.end() && found->is_number_integer() ? found->get<std::int64_t>() : 0;
        };
        result.first = {static_cast<std::uint64_t>(number("frame")), Time{Duration{number("t1")}}, names.front(),
                        shown(of_a, names.front()), shown(of_b, names.front())};
    }
}

TerminalText comparison_text(const FrameComparison& comparison, std::string_view first, std::string_view second) {
    if (comparison.is_same())
        return shown("{} and {} have the same {}.\n", first, second, plural_text(comparison.frames, "frame"));
    TerminalText text;
    if (comparison.first) {
        const FrameComparison::Difference& it = *comparison.first;
        text = shown("{} and {} differ first in frame {}, which ends at {}, in {}.\n  first:  {}\n  second: {}\n",
                     first, second, it.frame, time_text(it.end), it.what, it.first, it.second);
        text +=
            shown("{} compared, {} of them different:", plural_text(comparison.frames, "frame"), comparison.differing);
        const char* comma = " ";
        for (const auto& [name, count] : comparison.by)
            text += shown("{}{} in {}", std::exchange(comma, ", "), name, count);
        text += ".\n";
    } else {
        text = shown("{} and {} have the same {}, but not as many.\n", first, second,
                     plural_text(comparison.frames, "frame"));
    }
    for (const auto& [count, which] : {std::pair{comparison.only_in_first, first}, {comparison.only_in_second, second}})
        if (count != 0) text += shown("{} more in {}.\n", plural_text(count, "frame"), which);
    return text;
}

std::string difference_from_kept(const std::string& kept_frames, const std::string& recording,
                                 FrameLineOptions options) {
    std::ifstream kept{kept_frames, std::ios::binary}, in{recording, std::ios::binary};
    for (const auto& [file, name] : {std::pair{&kept, &kept_frames}, {&in, &recording}})
        if (!*file) return *name + ": cannot be opened: " + std::strerror(errno) + "\n";
    options.uses_own_cuts = has_own_cuts(in);
    in.clear();
    in.seekg(0);
    KeptFrames lines{kept, kept_frames};
    FrameLines frames{in, recording, options};
    const FrameComparison comparison = compare_frame_lines([&](std::string& line) { return lines.next(line); },
                                                           [&](std::string& line) { return frames.next(line); });
    for (const std::string* error : {&lines.error(), &frames.error()})
        if (!error->empty()) return *error + "\n";
    return comparison.is_same() ? std::string{} : comparison_text(comparison, kept_frames, recording).string();
}

}  // namespace cursorum
