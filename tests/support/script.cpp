#include "support/script.hpp"

#include <gtest/gtest.h>

#include <charconv>
#include <cstdlib>
#include <sstream>
#include <stdexcept>

#include "cursorum/core/controls.hpp"

namespace test {

Button letter(char c) {
    if (c == '<') return controls::ShiftLeft;
    if (c == '>') return controls::ShiftRight;
    if (c == '^') return controls::ControlLeft;
    return find_button(std::string{"Key"} + c);
}

ScriptRun::ScriptRun(const SamplerOptions& options) : sampler{timeline, options} {
    Inlet& desk = timeline.desk();
    desk.connect(DeviceId{1}, {.name = "one", .marks_repeats = true}, Time{});
    desk.connect(DeviceId{2}, {.name = "two"}, Time{});
    desk.connect(DeviceId{3}, {.name = "three", .marks_repeats = true, .background = true}, Time{});
    for (const unsigned id : {1U, 2U, 3U}) desk.state(DeviceId{id}, {}, Time{});
}

std::vector<std::string> ScriptRun::run(std::string_view script) {
    std::vector<std::string> frames;
    std::istringstream words{std::string{script}};
    for (std::string word; words >> word;) {
        if (word[0] == '|') {
            const Frame& frame = sampler.advance(nanoseconds_since_zero(std::atoll(word.c_str() + 1)));
            frames.push_back(tell ? tell(frame) : text(frame[controls::KeyW].figures()));
            continue;
        }
        if (on_word && word[0] >= 'a' && word[0] <= 'z') {
            on_word(word);
            continue;
        }
        std::size_t used = 0;
        const Time time = nanoseconds_since_zero(std::stoll(word, &used));
        std::string_view rest = std::string_view{word}.substr(used);
        const auto number = [&rest] {
            unsigned value = 1;
            if (!rest.empty() && rest[0] >= '0' && rest[0] <= '9') {
                value = static_cast<unsigned>(rest[0] - '0');
                rest.remove_prefix(1);
            }
            return value;
        };
        Inlet& desk = timeline.desk();
        const std::string_view kind = rest.substr(0, 3);
        if (rest[0] == '+' || rest[0] == '-' || rest[0] == '~') {
            const char action = rest[0];
            rest.remove_prefix(1);
            const DeviceId device{number()};
            last_outcome = action == '~' ? desk.system_repeat(device, letter(rest[0]), time)
                                         : desk.button(device, letter(rest[0]), action == '+', time);
            continue;
        }
        rest.remove_prefix(3);
        const unsigned value = number();
        if (kind == "con") {
            last_outcome = desk.connect(DeviceId{value}, {.name = "again", .marks_repeats = value != 2}, time);
        } else if (kind == "dis") {
            last_outcome = desk.disconnect(DeviceId{value}, time);
        } else if (kind == "foc") {
            last_outcome = value != 0 ? desk.gain_focus(unknown_state, time) : desk.lose_focus(time);
        } else if (kind == "int") {
            last_outcome = desk.interrupt(unknown_state, time);
        } else if (kind == "sta" || kind == "ado") {
            ButtonSet down;
            for (const char c : rest.substr(1)) down.insert(letter(c));
            last_outcome = desk.state(DeviceId{value}, down, time, kind == "ado");
        } else {
            throw std::invalid_argument{word};
        }
    }
    return frames;
}

std::string text(const ButtonFigures& f) {
    std::ostringstream out;
    out << name_of(f.state()) << ' ' << f.press_count() << f.release_count() << f.adopt_count() << f.cancel_count()
        << ' ' << f.held_for().count() << ' ' << f.down_span().count();
    if (f.repeat_count() != 0) out << " rep" << f.repeat_count();
    if (f.system_repeat_count() != 0) out << " sys" << f.system_repeat_count();
    return out.str();
}

std::string edges_text(const Frame& frame) {
    std::ostringstream out;
    const char* separator = "";
    for (const Edge edge : frame.edges()) {
        out << separator << nanoseconds(edge.time) << ' ' << static_cast<unsigned>(edge.device) << ' '
            << name_of(edge.button) << ' ' << name_of(edge.kind);
        separator = "; ";
    }
    return out.str();
}

void check_rows(const char* table, const std::function<std::vector<std::string>(const std::string&)>& run) {
    std::istringstream lines{table};
    for (std::string line; std::getline(lines, line);) {
        if (line.empty()) continue;
        const std::size_t script = line.find(" : ") + 3, expected = line.find(" : ", script) + 3;
        std::string all;
        for (const std::string& at_cut : run(line.substr(script, expected - 3 - script)))
            all += (all.empty() ? "" : "; ") + at_cut;
        EXPECT_EQ(all, line.substr(expected)) << line;
    }
}

}  // namespace test
