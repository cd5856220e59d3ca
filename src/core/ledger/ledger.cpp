// Events as words, and back. What is frequent has few words: values that are exact as 32-bit numbers share one.
#include "core/ledger/ledger.hpp"

#include <algorithm>
#include <bit>
#include <cstring>

namespace cursorum::detail {
namespace {

constexpr unsigned shaping_words = (sizeof(DeviceShaping) + 7) / 8, name_words = 8;
static_assert(shaping_words < 256 && button_words + 1 + axis_kinds < 256);

}  // namespace

void Ledger::note_motion(std::int64_t stamp, DeviceId device, const MotionFields& m) noexcept {
    const bool turns = (m.fields & MotionFields::wheel) != 0;
    unsigned flags = m.fields, words = 0;
    std::array<std::uint64_t, 6> values;
    const auto add = [&](unsigned which, unsigned short_flag, double x, double y) {
        if ((m.fields & which) == 0) return;
        if (is_short(x) && is_short(y)) {
            flags |= short_flag;
            values[words++] = short_pair(x, y);
        } else {
            values[words++] = std::bit_cast<std::uint64_t>(x);
            values[words++] = std::bit_cast<std::uint64_t>(y);
        }
    };
    add(MotionFields::motion | MotionFields::wheel, short_motion_flag, m.dx, m.dy);
    add(MotionFields::position, short_position_flag, m.x, m.y);
    add(MotionFields::raw, short_raw_flag, m.raw_dx, m.raw_dy);
    note_long(stamp, head(turns ? EventType::wheel : EventType::motion, device, 0, flags), words, [&] {
        for (unsigned i = 0; i < words; ++i) ring_.write({values[i]});
    });
}

void Ledger::note_state(std::int64_t stamp, DeviceId device, const ButtonSet* down, const AxisValues& axes, bool adopts,
                        bool adopts_axes) noexcept {
    const bool has_axes = axes.present != 0;
    if (down && has_axes && adopts != adopts_axes) {  // an event has one word for both
        note_state(stamp, device, down, {}, adopts, adopts);
        return note_state(stamp, device, nullptr, axes, adopts_axes, adopts_axes);
    }
    const unsigned flags = (down != nullptr) * down_set_flag | (down ? adopts : adopts_axes) * adopt_flag;
    const auto count = static_cast<unsigned>(std::popcount(axes.present));
    note_long(stamp, head(EventType::state, device, 0, flags), (down ? button_words : 0) + 1 + count, [&] {
        if (down)
            for (unsigned i = 0; i < button_words; ++i) ring_.write({down->words()[i] & kept_[i].get()});
        ring_.write({axes.present});
        for (unsigned axis = 0; axis < axis_kinds; ++axis)
            if (axes.has(axis)) ring_.write({std::bit_cast<std::uint64_t>(axes.values[axis])});
    });
}

void Ledger::note_other(std::int64_t stamp, const Event& event) noexcept {
    const auto head_of = [&](unsigned control, unsigned flags) {
        return head(event.type, event.device, control, flags);
    };
    switch (event.type) {
        case EventType::disconnect:
        case EventType::interrupt: return note(stamp, head_of(0, 0));
        case EventType::focus: return note(stamp, head_of(0, event.focused * down_flag));
        case EventType::pointer:
            return note(stamp,
                        head_of(static_cast<unsigned>(event.cursor_state.hold),
                                event.inside * inside_flag | event.has_inside * has_inside_flag |
                                    event.has_cursor * has_cursor_flag | event.cursor_state.hidden * hidden_flag));
        case EventType::contact:
            return note(stamp, head_of(static_cast<unsigned>(event.phase), 0), std::uint64_t{event.contact}, event.x,
                        event.y, event.value);
        case EventType::locks: return note_long(stamp, head_of(0, 0), button_words, [&] { write_set(event.down_set); });
        case EventType::shaping:
            return note_long(stamp, head_of(0, 0), shaping_words, [&] {
                std::array<std::uint64_t, shaping_words> words{};
                std::memcpy(words.data(), &event.shaping, sizeof event.shaping);
                for (const std::uint64_t word : words) ring_.write({word});
            });
        case EventType::connect: {
            const DeviceInfo& info = event.info;
            const unsigned flags =
                info.marks_repeats * 1U | info.background * 2U | info.is_virtual * 4U | info.first_contact_points * 8U;
            return note_long(
                stamp, head_of(static_cast<unsigned>(info.kind), flags), 1 + button_words + name_words, [&] {
                    ring_.write({info.vendor | std::uint64_t{info.product} << 16 | std::uint64_t{info.axes} << 32});
                    write_set(info.buttons);
                    std::array<char, 8 * name_words> name{};
                    std::copy_n(info.name.begin(), std::min(info.name.size(), name.size() - 1), name.begin());
                    for (const std::uint64_t word : std::bit_cast<std::array<std::uint64_t, name_words>>(name))
                        ring_.write({word});
                });
        }
        default: return;
    }
}

void Ledger::take_names(std::uint64_t position, const ButtonSet& buttons) noexcept {
    const std::uint64_t what = ring_.first_word(position + 1);
    const auto type = static_cast<EventType>(what & type_mask);
    const Button button{static_cast<std::uint16_t>(what >> control_shift & 0xFFF)};
    if (!still_has(position)) return;
    if (type == EventType::button && buttons.contains(button))
        ring_.replace(position + 1, what, what & ~(std::uint64_t{0xFFF} << control_shift));
    if (type != EventType::state || (what >> flags_shift & down_set_flag) == 0) return;
    for (unsigned i = 0; i < button_words; ++i) {
        const std::uint64_t down = ring_.first_word(position + 2 + i);
        if (still_has(position)) ring_.replace(position + 2 + i, down, down & ~buttons.words()[i]);
    }
}

bool Ledger::read(std::uint64_t position, LedgerEvent& to) const noexcept {
    const std::uint64_t what = ring_.first_word(position + 1);
    const unsigned flags = what >> flags_shift & 0xFF, control = what >> control_shift & 0xFFF;
    to.event = Event::of(Time{Duration{glance(position).stamp}}, static_cast<EventType>(what & type_mask),
                         DeviceId{static_cast<std::uint32_t>(what >> device_shift)});
    to.is_nameless = false;
    Event& event = to.event;
    std::uint64_t at = position + 2;
    const auto word = [&] { return ring_.first_word(at++); };
    const auto value = [&] { return std::bit_cast<double>(word()); };
    const auto set = [&] {
        ButtonSet::Words words;
        for (std::uint64_t& its : words) its = word();
        return ButtonSet{words};
    };
    const auto pair = [&](bool is_there, unsigned short_flag, double& x, double& y) {
        if (!is_there) return;
        if ((flags & short_flag) == 0) {
            x = value(), y = value();
            return;
        }
        const std::uint64_t both = word();
        x = double{std::bit_cast<float>(static_cast<std::uint32_t>(both))};
        y = double{std::bit_cast<float>(static_cast<std::uint32_t>(both >> 32))};
    };
    switch (event.type) {
        case EventType::button:
            event.control = {static_cast<std::uint16_t>(control)};
            event.down = (flags & down_flag) != 0;
            event.system_repeat = (flags & marked_flag) != 0;
            to.is_nameless = control == 0;
            break;
        case EventType::axis:
            event.axis = Axis{static_cast<std::uint8_t>(control)};
            event.value = value();
            break;
        case EventType::motion:
        case EventType::wheel:
            event.has_motion = (flags & MotionFields::motion) != 0;
            event.has_position = (flags & MotionFields::position) != 0;
            event.has_raw = (flags & MotionFields::raw) != 0;
            event.warp = (flags & MotionFields::warp) != 0;
            pair(event.has_motion || event.type == EventType::wheel, short_motion_flag, event.dx, event.dy);
            pair(event.has_position, short_position_flag, event.x, event.y);
            pair(event.has_raw, short_raw_flag, event.raw_dx, event.raw_dy);
            break;
        case EventType::state:
            event.adopt = (flags & adopt_flag) != 0;
            event.has_down_set = (flags & down_set_flag) != 0;
            if (event.has_down_set) event.down_set = set();
            event.axes.present = static_cast<std::uint32_t>(word());
            for (unsigned axis = 0; axis < axis_kinds; ++axis)
                if (event.axes.has(axis)) event.axes.values[axis] = value();
            break;
        case EventType::focus: event.focused = (flags & down_flag) != 0; break;
        case EventType::pointer:
            event.inside = (flags & inside_flag) != 0;
            event.has_inside = (flags & has_inside_flag) != 0;
            event.has_cursor = (flags & has_cursor_flag) != 0;
            event.cursor_state = {static_cast<CursorHold>(control), (flags & hidden_flag) != 0};
            break;
        case EventType::contact:
            event.phase = static_cast<ContactPhase>(control);
            event.contact = static_cast<std::uint32_t>(word());
            event.x = value(), event.y = value(), event.value = value();
            break;
        case EventType::locks: event.down_set = set(); break;
        case EventType::shaping: {
            std::array<std::uint64_t, shaping_words> words;
            for (std::uint64_t& its : words) its = word();
            if (still_has(position))
                std::memcpy(static_cast<void*>(&event.shaping), words.data(), sizeof event.shaping);
            break;
        }
        case EventType::connect: {
            DeviceInfo& info = event.info;
            info.kind = static_cast<DeviceKind>(control);
            info.marks_repeats = (flags & 1) != 0;
            info.background = (flags & 2) != 0;
            info.is_virtual = (flags & 4) != 0;
            info.first_contact_points = (flags & 8) != 0;
            const std::uint64_t numbers = word();
            info.vendor = static_cast<std::uint16_t>(numbers);
            info.product = static_cast<std::uint16_t>(numbers >> 16);
            info.axes = static_cast<std::uint32_t>(numbers >> 32);
            info.buttons = set();
            for (unsigned i = 0; i < name_words; ++i) {
                const std::uint64_t bytes = word();
                std::memcpy(to.name.data() + std::size_t{8} * i, &bytes, 8);
            }
            to.name.back() = 0;
            info.name = to.name.data();
            break;
        }
        case EventType::disconnect:
        case EventType::interrupt:
        case EventType::text: break;
    }
    return still_has(position);
}

}  // namespace cursorum::detail
