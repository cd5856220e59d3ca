#include "wave_file.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <cstring>

#include "command_line.hpp"
#include "cursorum/core/axis_reading.hpp"
#include "cursorum/core/version.hpp"

namespace cursorum::tool {
namespace {

constexpr const char* of_controls = "controls";
constexpr const char* of_axes = "axes";
constexpr const char* of_frames = "frames";

/// The format's names have no spaces; names that differ stay apart.
std::string as_name(const std::string& name) {
    std::string written;
    for (const char c : name) {
        const auto code = static_cast<unsigned char>(c);
        written += code > ' ' && code < 127 && c != '%' ? std::string{c} : fmt::format("%{:02X}", code);
    }
    return written;
}

UsageError no_room() {
    return UsageError{shown("a temporary file for the dump cannot be written: {}", std::strerror(errno))};
}

}  // namespace

WaveFile::WaveFile() : changes_{std::tmpfile()} {
    if (!changes_) throw no_room();
}

void WaveFile::begin(const Frame& frame) {
    if (has_begun_) return;
    has_begun_ = true;
    first_ = latest_ = nanoseconds(frame.start());
    origin_ = std::min<std::int64_t>(first_, 0);
    signal(of_frames, "cut", false);
}

std::size_t WaveFile::signal(const std::string& scope, const std::string& name, bool is_real) {
    const auto [it, is_new] = numbers_.try_emplace({scope, name}, signals_.size());
    if (is_new) signals_.push_back({.scope = scope, .name = name, .is_real = is_real});
    return it->second;
}

void WaveFile::change(std::int64_t time, std::size_t number, double value) {
    of_frame_.push_back({time, number, value});
}

void WaveFile::add(const Frame& frame, const ButtonSet& controls) {
    begin(frame);
    frame.for_each_merged_edge([&](const Edge& edge) {
        const bool is_own = edge.button.number < first_of_axes;
        if (controls.empty() ? !is_own : !controls.contains(edge.button)) return;
        const bool down = edge.kind == EdgeKind::press || edge.kind == EdgeKind::adopt;
        change(nanoseconds(edge.time), signal(of_controls, std::string{name_of(edge.button)}, false), down);
    });
    if (!controls.empty()) return;
    for (std::uint8_t i = 0; i < axis_kinds; ++i) {
        const Axis axis{i};
        const AxisReading reading = frame.raw_axis(axis);
        if (reading.before != 0)
            change(nanoseconds(frame.start()), signal(of_axes, std::string{name_of(axis)}, true), reading.before);
        frame.for_each_raw_value(axis, [&](Time time, double value) {
            change(nanoseconds(time), signal(of_axes, std::string{name_of(axis)}, true), value);
        });
    }
}

void WaveFile::add(const ActionReader& reader, const Profile& profile, const ActionFilter& filter) {
    reader.for_each_edge([&](const ActionEdge& edge) {
        const std::string name = reader.name_of(edge.action);
        if (!filter.has(name)) return;
        const bool down = edge.kind == EdgeKind::press || edge.kind == EdgeKind::adopt;
        const std::size_t point = name.find('.');
        change(nanoseconds(edge.time), signal(name.substr(0, point), name.substr(point + 1), false), down);
    });
    for (const ActionRow& row : action_rows(reader, profile, filter)) {
        if (row.action->kind == ActionKind::button) continue;
        const auto value = [&](const char* what, double v) {
            change(nanoseconds(reader.end()), signal(row.mode->name, row.action->name + what, true), v);
        };
        const bool is_vector = row.action->kind == ActionKind::vector;
        value(is_vector ? ".x" : "", row.value.x);
        if (is_vector) value(".y", row.value.y);
    }
}

void WaveFile::end_frame(const Frame& frame) {
    begin(frame);
    change(nanoseconds(frame.end()), signal(of_frames, "cut", false), cut_ = !cut_);
    std::stable_sort(of_frame_.begin(), of_frame_.end(),
                     [](const Change& a, const Change& b) { return a.time < b.time; });
    std::string text;
    for (const Change& it : of_frame_) {
        Signal& known = signals_[it.signal];
        if (known.is_real ? known.value == it.value : known.level == (it.value != 0)) continue;
        known.value = it.value;
        known.level = it.value != 0;
        // What took effect before the frame does so at its start.
        const std::int64_t time = std::max(it.time, latest_);
        if (time != latest_ || text.empty()) text += fmt::format("#{}\n", time - origin_);
        latest_ = time;
        text += known.is_real ? fmt::format("r{} {}\n", known.value, id_of(it.signal))
                              : fmt::format("{}{}\n", known.level ? 1 : 0, id_of(it.signal));
    }
    of_frame_.clear();
    write(text);
}

void WaveFile::write(const std::string& text) {
    if (std::fwrite(text.data(), 1, text.size(), changes_.get()) != text.size()) throw no_room();
}

// Short names of printable characters.
std::string WaveFile::id_of(std::size_t number) {
    constexpr std::size_t first = '!', count = '~' - '!' + 1;
    std::string id;
    do {
        id += static_cast<char>(first + number % count);
        number /= count;
    } while (number-- != 0);
    return id;
}

void WaveFile::finish() {
    std::string text = fmt::format("$version cursorum {} $end\n$timescale 1 ns $end\n", CURSORUM_VERSION);
    if (origin_ != 0) text += fmt::format("$comment time 0 is {} ns of the recording $end\n", origin_);
    std::string scope;
    // By scope, then by name: a map's order.
    for (const auto& [key, number] : numbers_) {
        if (key.first != scope) {
            text +=
                fmt::format("{}$scope module {} $end\n", scope.empty() ? "" : "$upscope $end\n", as_name(key.first));
            scope = key.first;
        }
        const Signal& signal = signals_[number];
        text += fmt::format("$var {} {} {} $end\n", signal.is_real ? "real 64" : "wire 1", id_of(number),
                            as_name(signal.name));
    }
    text += fmt::format("{}$enddefinitions $end\n#{}\n$dumpvars\n", scope.empty() ? "" : "$upscope $end\n",
                        first_ - origin_);
    for (std::size_t i = 0; i < signals_.size(); ++i)
        text += fmt::format("{}{}\n", signals_[i].is_real ? "r0 " : "0", id_of(i));
    text += "$end\n";
    print_data(text);
    std::rewind(changes_.get());
    std::array<char, 1 << 16> block;
    for (std::size_t size; (size = std::fread(block.data(), 1, block.size(), changes_.get())) != 0;)
        print_data({block.data(), size});
    if (std::ferror(changes_.get()) != 0) throw no_room();
}

}  // namespace cursorum::tool
