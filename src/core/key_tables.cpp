#include "cursorum/core/key_tables.hpp"

#include <algorithm>
#include <array>

namespace cursorum {
namespace {

struct KeyRow {
    Button button;
    std::int32_t scan_code, virtual_key, macintosh;
};

constexpr KeyRow rows[] = {
#define CURSORUM_KEY(name, scan_code, virtual_key, macintosh) {controls::name, scan_code, virtual_key, macintosh},
#include "core/key_list.hpp"
#undef CURSORUM_KEY
};

constexpr std::array<Button, 17> pad_order{
    controls::PadSouth,        controls::PadEast,          controls::PadWest,        controls::PadNorth,
    controls::PadShoulderLeft, controls::PadShoulderRight, controls::PadTriggerLeft, controls::PadTriggerRight,
    controls::PadSelect,       controls::PadStart,         controls::PadThumbLeft,   controls::PadThumbRight,
    controls::PadHatUp,        controls::PadHatDown,       controls::PadHatLeft,     controls::PadHatRight,
    controls::PadMode};

/// One column by number: made at compile time.
struct Numbered {
    std::uint16_t number, button;
};
struct Column {
    std::array<Numbered, std::size(rows)> entries{};
    std::size_t size = 0;

    constexpr explicit Column(std::int32_t KeyRow::*column) {
        for (const KeyRow& row : rows)
            if (row.*column >= 0) entries[size++] = {static_cast<std::uint16_t>(row.*column), row.button.number};
        std::sort(entries.begin(), entries.begin() + size, [](Numbered a, Numbered b) { return a.number < b.number; });
    }
    Button find(unsigned number) const noexcept {
        const auto* const end = entries.data() + size;
        const auto* const found = std::lower_bound(
            entries.data(), end, number, [](Numbered entry, unsigned wanted) { return entry.number < wanted; });
        return found != end && found->number == number ? Button{found->button} : Button{};
    }
};
constexpr Column scan_codes{&KeyRow::scan_code}, virtual_keys{&KeyRow::virtual_key}, macintosh_keys{&KeyRow::macintosh};

constexpr unsigned hid_keyboard_page = 0x07, first_x_keycode = 8, last_x_keycode = 255;
constexpr unsigned num_lock = 0x45, extended = 0xE000, pause = 0xE11D;
// Pause with Control sends this, and Print Screen with Alt the other.
constexpr unsigned break_key = 0xE046, system_request = 0x54;

Button button_of_scan_code(unsigned number) noexcept {
    if (number == break_key) return controls::Pause;
    if (number == system_request) return controls::PrintScreen;
    return scan_codes.find(number);
}

}  // namespace

Button button_of(KeyTable table, unsigned number) noexcept {
    switch (table) {
        case KeyTable::linux_code: return button_of_linux_code(number);
        case KeyTable::x_keycode:
            return number >= first_x_keycode && number <= last_x_keycode
                       ? button_of_linux_code(number - first_x_keycode)
                       : Button{};
        case KeyTable::hid_usage: return button_of_hid_usage(hid_keyboard_page, number);
        case KeyTable::scan_code: return button_of_scan_code(number);
        case KeyTable::message_scan_code:
            if (number == num_lock) return controls::Pause;
            if (number == extended + num_lock) return controls::NumLock;
            return number == pause ? Button{} : button_of_scan_code(number);
        case KeyTable::virtual_key: return virtual_keys.find(number);
        case KeyTable::macintosh: return macintosh_keys.find(number);
        case KeyTable::standard_pad: return number < pad_order.size() ? pad_order[number] : Button{};
    }
    return {};
}

std::optional<unsigned> number_in(KeyTable table, Button button) noexcept {
    const auto number_at = [button](std::int32_t KeyRow::*column) -> std::optional<unsigned> {
        for (const KeyRow& row : rows)
            if (row.button == button && row.*column >= 0) return static_cast<unsigned>(row.*column);
        return std::nullopt;
    };
    const ControlInfo* const info = find_control(name_of(button));
    switch (table) {
        case KeyTable::linux_code:
            return info && info->linux_code != 0 ? std::optional<unsigned>{info->linux_code} : std::nullopt;
        case KeyTable::x_keycode:
            return info && info->linux_code != 0 && info->linux_code + first_x_keycode <= last_x_keycode
                       ? std::optional{info->linux_code + first_x_keycode}
                       : std::nullopt;
        case KeyTable::hid_usage:
            return info && info->hid_page == hid_keyboard_page ? std::optional<unsigned>{info->hid_usage}
                                                               : std::nullopt;
        case KeyTable::scan_code: return number_at(&KeyRow::scan_code);
        case KeyTable::message_scan_code:
            return button == controls::Pause     ? std::optional{num_lock}
                   : button == controls::NumLock ? std::optional{extended + num_lock}
                                                 : number_at(&KeyRow::scan_code);
        case KeyTable::virtual_key: return number_at(&KeyRow::virtual_key);
        case KeyTable::macintosh: return number_at(&KeyRow::macintosh);
        case KeyTable::standard_pad:
            for (unsigned i = 0; i < pad_order.size(); ++i)
                if (pad_order[i] == button) return i;
            return std::nullopt;
    }
    return std::nullopt;
}

Button button_of_code(std::string_view code) noexcept {
    // Names that browsers had before the specification was finished.
    if (code == "OSLeft") return controls::MetaLeft;
    if (code == "OSRight") return controls::MetaRight;
    const ControlInfo* const info = find_control(code);
    return info && info->family == ControlFamily::key && !code.starts_with("KeyExtra") ? info->button : Button{};
}

}  // namespace cursorum
