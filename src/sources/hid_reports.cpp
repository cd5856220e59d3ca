// Boot-protocol reports of USB keyboards and mice, as states: which keys a report names, how far a mouse moved. Too
// many keys at once make a report without names, which changes nothing.
#include "cursorum/sources/hid_reports.hpp"
#include "cursorum/core/event.hpp"

#include <algorithm>

#include "cursorum/core/controls.hpp"

namespace cursorum {
namespace {

constexpr unsigned first_modifier = 0xE0;  // usages 0xE0 to 0xE7, in the order of the first byte's bits
constexpr std::uint8_t last_error_usage = 3;

std::uint8_t byte_at(std::span<const std::byte> report, std::size_t at) {
    return static_cast<std::uint8_t>(report[at]);
}

double signed_at(std::span<const std::byte> report, std::size_t at) { return static_cast<std::int8_t>(report[at]); }

}  // namespace

HidResult HidKeyboard::take(std::span<const std::byte> report, Time when, EventSink& sink) {
    if (report.size() < report_size) {
        ++counters_.truncated;
        return HidResult::truncated;
    }
    const auto keys = report.subspan(2, 6);
    const auto is_error = [](std::byte usage) { return usage != std::byte{0} && usage <= std::byte{last_error_usage}; };
    if (std::any_of(keys.begin(), keys.end(), is_error)) {
        ++counters_.rollovers;
        return HidResult::rollover;
    }
    ButtonSet down;
    for (unsigned bit = 0; bit < 8; ++bit)
        if ((byte_at(report, 0) >> bit & 1) != 0) down.insert({static_cast<std::uint16_t>(first_modifier + bit)});
    for (const std::byte usage : keys) {
        if (usage == std::byte{0}) continue;
        if (const Button key = button_of_hid_usage(0x07, static_cast<unsigned>(usage)))
            down.insert(key);
        else
            ++counters_.unknown;
    }
    ++counters_.reports;
    sink.take(Event::state(when, device_, down));
    return HidResult::taken;
}

HidResult HidMouse::take(std::span<const std::byte> report, Time when, EventSink& sink) {
    if (report.size() < report_size) {
        ++counters_.truncated;
        return HidResult::truncated;
    }
    ++counters_.reports;
    const std::uint8_t buttons = byte_at(report, 0) & 0x07;
    if (buttons != buttons_) {
        ButtonSet down;
        constexpr Button order[] = {controls::MouseLeft, controls::MouseRight, controls::MouseMiddle};
        for (unsigned bit = 0; bit < 3; ++bit)
            if ((buttons >> bit & 1) != 0) down.insert(order[bit]);
        buttons_ = buttons;
        sink.take(Event::state(when, device_, down));
    }
    Event motion = Event::of(when, EventType::motion, device_);
    motion.has_motion = true;
    motion.dx = signed_at(report, 1);
    motion.dy = signed_at(report, 2);
    if (motion.dx != 0 || motion.dy != 0) sink.take(motion);
    return HidResult::taken;
}

}  // namespace cursorum
