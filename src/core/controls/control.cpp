// The names of controls, both ways: from a number to its name, and from a name to its number by a binary search in an
// order that is made at compile time. Also the rank of each name as bytes, by which edges of one instant are ordered.
#include "cursorum/core/control.hpp"

#include <algorithm>
#include <array>

#include "core/controls/postable.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/near_name.hpp"

namespace cursorum {
namespace {

constexpr ControlFamily family_of(std::string_view name, unsigned number, unsigned hid_page) {
    if (number >= first_either_side) return ControlFamily::either_side;
    if (number >= first_of_axes) return ControlFamily::direction;
    if (hid_page == 0x09) return ControlFamily::mouse_button;
    if (name.starts_with("Pad")) return ControlFamily::pad_button;
    return ControlFamily::key;
}

constexpr ControlInfo axis_row(std::string_view name, std::uint16_t hid_usage, std::uint16_t linux_code,
                               std::string_view what) {
    return {name, ControlFamily::axis, {}, 0x01, hid_usage, linux_code, what};
}

/// `usage`: of HID's simulation controls page (0x02), 0 for none.
constexpr ControlInfo extra_row(std::string_view name, std::uint16_t usage, std::uint16_t linux_code,
                                std::string_view what) {
    return {name, ControlFamily::axis, {}, std::uint16_t(usage != 0 ? 0x02 : 0), usage, linux_code, what};
}

// The public constants agree with this list.
#define CURSORUM_BUTTON(name, its_number, hid_page, hid_usage, linux_code, what) \
    static_assert(controls::name.number == (its_number));
#include "core/controls/control_list.hpp"
#include "core/controls/derived_control_list.hpp"
#undef CURSORUM_BUTTON

constexpr auto table = std::to_array<ControlInfo>({
#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what) \
    ControlInfo{#name, family_of(#name, number, hid_page), {number}, hid_page, hid_usage, linux_code, what},
#include "core/controls/control_list.hpp"
#include "core/controls/derived_control_list.hpp"
#undef CURSORUM_BUTTON
    // In the order of Axis numbers. Usages and codes as the Linux gamepad specification gives them to sticks and
    // triggers (generic desktop page).
    axis_row("PadStickLeftX", 0x30, 0x00, "gamepad: left stick, right is positive"),
    axis_row("PadStickLeftY", 0x31, 0x01, "gamepad: left stick, down is positive"),
    axis_row("PadStickRightX", 0x33, 0x03, "gamepad: right stick, right is positive"),
    axis_row("PadStickRightY", 0x34, 0x04, "gamepad: right stick, down is positive"),
    axis_row("PadPullLeft", 0x32, 0x02, "gamepad: left trigger's travel; as a button, down from the middle"),
    axis_row("PadPullRight", 0x35, 0x05, "gamepad: right trigger's travel; as a button, down from the middle"),
    extra_row("PadAxisExtra1", 0xBB, 0x06, "gamepad: axis 1 beyond the usual ones, often a throttle"),
    extra_row("PadAxisExtra2", 0xBA, 0x07, "gamepad: axis 2 beyond the usual ones, often a rudder"),
    extra_row("PadAxisExtra3", 0xC8, 0x08, "gamepad: axis 3 beyond the usual ones, often a wheel"),
    extra_row("PadAxisExtra4", 0xC4, 0x09, "gamepad: axis 4 beyond the usual ones, often a gas pedal"),
    extra_row("PadAxisExtra5", 0xC5, 0x0a, "gamepad: axis 5 beyond the usual ones, often a brake pedal"),
    extra_row("PadAxisExtra6", 0, 0x12, "gamepad: axis 6 beyond the usual ones"),
    extra_row("PadAxisExtra7", 0, 0x13, "gamepad: axis 7 beyond the usual ones"),
    extra_row("PadAxisExtra8", 0, 0x14, "gamepad: axis 8 beyond the usual ones"),
    extra_row("PadAxisExtra9", 0, 0x15, "gamepad: axis 9 beyond the usual ones"),
    extra_row("PadAxisExtra10", 0, 0x16, "gamepad: axis 10 beyond the usual ones"),
    extra_row("PadAxisExtra11", 0, 0x17, "gamepad: axis 11 beyond the usual ones"),
    extra_row("PadAxisExtra12", 0, 0x18, "gamepad: axis 12 beyond the usual ones"),
    extra_row("PadAxisExtra13", 0, 0x19, "gamepad: axis 13 beyond the usual ones"),
    extra_row("PadAxisExtra14", 0, 0x1a, "gamepad: axis 14 beyond the usual ones"),
    extra_row("PadAxisExtra15", 0, 0x1b, "gamepad: axis 15 beyond the usual ones"),
    extra_row("PadAxisExtra16", 0, 0x1c, "gamepad: axis 16 beyond the usual ones"),
    extra_row("PadAxisExtra17", 0, 0x20, "gamepad: axis 17 beyond the usual ones"),
    extra_row("PadAxisExtra18", 0, 0x21, "gamepad: axis 18 beyond the usual ones"),
    extra_row("PadAxisExtra19", 0, 0x28, "gamepad: axis 19 beyond the usual ones"),
    extra_row("PadAxisExtra20", 0, 0x29, "gamepad: axis 20 beyond the usual ones"),
    extra_row("PadAxisExtra21", 0, 0x2a, "gamepad: axis 21 beyond the usual ones"),
    extra_row("PadAxisExtra22", 0, 0x2b, "gamepad: axis 22 beyond the usual ones"),
    extra_row("PadAxisExtra23", 0, 0x2c, "gamepad: axis 23 beyond the usual ones"),
    extra_row("PadAxisExtra24", 0, 0x2d, "gamepad: axis 24 beyond the usual ones"),
    extra_row("PadAxisExtra25", 0, 0x2e, "gamepad: axis 25 beyond the usual ones"),
    extra_row("PadAxisExtra26", 0, 0x0b, "gamepad: axis 26 beyond the usual ones"),
});

constexpr std::size_t first_axis_row = table.size() - axis_kinds;
static_assert(table[first_axis_row].name == std::string_view{"PadStickLeftX"} &&
              table[first_axis_row + first_extra_axis].name == std::string_view{"PadAxisExtra1"});

/// A trigger pulled far enough has the name of its travel, where a button's name is wanted, and so has any axis beyond
/// the usual ones. A stick's axes have none: its directions have.
constexpr Button button_of_axis_row(std::size_t row) {
    if (row < first_axis_row + 2 * stick_kinds) return {};
    return axis_button({static_cast<std::uint8_t>(row - first_axis_row)});
}

constexpr std::uint16_t nothing = 65535;

constexpr std::array<std::string_view, table.size()> make_names() {
    std::array<std::string_view, table.size()> names;
    for (std::size_t i = 0; i < table.size(); ++i) names[i] = table[i].name;
    return names;
}
constexpr auto names = make_names();

/// Rows in the order of their names' bytes.
constexpr std::array<std::uint16_t, table.size()> make_by_name() {
    std::array<std::uint16_t, table.size()> order{};
    for (std::size_t i = 0; i < order.size(); ++i) order[i] = static_cast<std::uint16_t>(i);
    std::sort(order.begin(), order.end(), [](auto a, auto b) { return names[a] < names[b]; });
    return order;
}
constexpr auto by_name = make_by_name();

struct NumberIndex {
    std::array<std::uint16_t, button_capacity> row{};
    std::array<std::uint16_t, button_capacity> rank{};
};

constexpr NumberIndex make_by_number() {
    NumberIndex index;
    index.row.fill(nothing);
    index.rank.fill(nothing);
    for (std::size_t rank = 0; rank < by_name.size(); ++rank) {
        const ControlInfo& info = table[by_name[rank]];
        const Button button = info.button ? info.button : button_of_axis_row(by_name[rank]);
        if (!button) continue;
        index.row[button.number] = by_name[rank];
        index.rank[button.number] = static_cast<std::uint16_t>(rank);
    }
    return index;
}
constexpr NumberIndex by_number = make_by_number();

constexpr bool numbers_are_unique() {
    std::array<bool, button_capacity> seen{};
    for (const ControlInfo& info : table) {
        if (!info.button) continue;
        if (info.button.number >= button_capacity || seen[info.button.number]) return false;
        seen[info.button.number] = true;
        if (info.hid_page == 0x07 && info.button.number != info.hid_usage) return false;
    }
    return true;
}
static_assert(numbers_are_unique());

constexpr unsigned linux_code_end = 0x2D9;

constexpr std::array<std::uint16_t, linux_code_end> make_by_linux_code() {
    std::array<std::uint16_t, linux_code_end> index{};
    for (const ControlInfo& info : table)
        if (info.button && info.linux_code) index[info.linux_code] = info.button.number;
    return index;
}
constexpr auto by_linux_code = make_by_linux_code();

}  // namespace

std::size_t control_count() noexcept { return table.size(); }

const ControlInfo& control(std::size_t index) noexcept { return table[index]; }

const ControlInfo* find_control(std::string_view name) noexcept {
    const auto at = std::lower_bound(by_name.begin(), by_name.end(), name,
                                     [](std::uint16_t row, std::string_view wanted) { return names[row] < wanted; });
    return at != by_name.end() && names[*at] == name ? &table[*at] : nullptr;
}

Button find_button(std::string_view name) noexcept {
    const ControlInfo* info = find_control(name);
    if (!info) return {};
    return info->button ? info->button : button_of_axis_row(static_cast<std::size_t>(info - table.data()));
}

std::string_view name_of(Axis axis) noexcept {
    return axis.number < axis_kinds ? names[first_axis_row + axis.number] : std::string_view{};
}

bool is_key(Button button) noexcept {
    const std::string_view name = name_of(button);
    return !name.empty() && button.number < first_of_axes && !name.starts_with("Mouse") && !name.starts_with("Pad");
}

std::optional<Axis> find_axis(std::string_view name) noexcept {
    const ControlInfo* info = find_control(name);
    if (!info || info->family != ControlFamily::axis) return std::nullopt;
    return Axis{static_cast<std::uint8_t>(info - &table[first_axis_row])};
}

std::uint16_t name_rank(Axis axis) noexcept {
    static constexpr std::array<std::uint16_t, axis_kinds> ranks = [] {
        std::array<std::uint16_t, axis_kinds> all{};
        for (std::size_t rank = 0; rank < by_name.size(); ++rank)
            if (by_name[rank] >= first_axis_row) all[by_name[rank] - first_axis_row] = static_cast<std::uint16_t>(rank);
        return all;
    }();
    return axis.number < axis_kinds ? ranks[axis.number] : nothing;
}

std::optional<Axis> axis_of_linux_code(unsigned code) noexcept {
    for (std::uint8_t i = 0; i < axis_kinds; ++i)
        if (table[first_axis_row + i].linux_code == code) return Axis{i};
    return std::nullopt;
}

std::string_view name_of(Stick stick) noexcept {
    return stick == controls::PadStickLeft    ? "PadStickLeft"
           : stick == controls::PadStickRight ? "PadStickRight"
                                              : std::string_view{};
}

std::string_view name_of(Button button) noexcept {
    if (button.number >= button_capacity || by_number.row[button.number] == nothing) return {};
    return names[by_number.row[button.number]];
}

std::uint16_t name_rank(Button button) noexcept {
    return button.number < button_capacity ? by_number.rank[button.number] : nothing;
}

Button button_of_linux_code(unsigned code) noexcept {
    return code < linux_code_end ? Button{by_linux_code[code]} : Button{};
}

Button button_of_hid_usage(unsigned page, unsigned usage) noexcept {
    if (page == 0 || usage > 0xFFFF) return {};
    for (const ControlInfo& info : table)
        if (info.button && info.hid_page == page && info.hid_usage == usage) return info.button;
    return {};
}

bool can_be_posted(Button button) noexcept { return postable_buttons.contains(button); }

std::string_view near_control_name(std::string_view mistyped) noexcept {
    // What is printed on a key, instead of the key's name.
    if (mistyped.size() == 1) {
        const char c = mistyped[0];
        const char upper = c >= 'a' && c <= 'z' ? static_cast<char>(c - 'a' + 'A') : c;
        for (const std::string_view name : names)
            if (name.back() == upper && (name.size() == 4 ? name.starts_with("Key") : name.starts_with("Digit")))
                return name;
    }
    // Other words for the same things, in any case.
    struct Synonym {
        std::string_view word, name;
    };
    static constexpr Synonym synonyms[] = {
        {"ctrl", "Control"},
        {"return", "Enter"},
        {"esc", "Escape"},
        {"win", "Meta"},
        {"windows", "Meta"},
        {"super", "Meta"},
        {"command", "Meta"},
        {"cmd", "Meta"},
        {"option", "Alt"},
        {"dpad", "PadHatUp"},
        {"del", "Delete"},
        {"ins", "Insert"},
        {"pgup", "PageUp"},
        {"pgdn", "PageDown"},
        {"up", "ArrowUp"},
        {"down", "ArrowDown"},
        {"left", "ArrowLeft"},
        {"right", "ArrowRight"},
        {"spacebar", "Space"},
        {"padstickleft", "PadStickLeftUp"},
        {"padstickright", "PadStickRightUp"},
    };
    std::array<char, 16> lower{};
    if (mistyped.size() <= lower.size()) {
        std::transform(mistyped.begin(), mistyped.end(), lower.begin(),
                       [](char c) { return c >= 'A' && c <= 'Z' ? static_cast<char>(c - 'A' + 'a') : c; });
        const std::string_view word{lower.data(), mistyped.size()};
        for (const Synonym& synonym : synonyms)
            if (word == synonym.word) return synonym.name;
    }
    return near_name(mistyped, names);
}

}  // namespace cursorum
