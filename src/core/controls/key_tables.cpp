// Keys by the numbers that other systems give them: scan codes, virtual keys, USB usages, Linux codes. One list of keys
// (key_list.hpp) is all tables; lookups are arrays made at compile time.
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
#include "core/controls/key_list.hpp"
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

/// What stands below 256, by number.
constexpr KeyNumbering numbering_of(const Column& column) {
    KeyNumbering numbering{};
    for (std::size_t i = 0; i < column.size; ++i)
        if (column.entries[i].number < numbering.size())
            numbering[column.entries[i].number] = {column.entries[i].button};
    return numbering;
}
/// From the list of all buttons. `first`: the number of code 0.
constexpr KeyNumbering numbering_of_linux(unsigned first) {
    KeyNumbering numbering{};
#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what) \
    if ((linux_code) != 0 && (linux_code) + first < 256) numbering[((linux_code) + first) % 256] = controls::name;
#include "core/controls/control_list.hpp"
#undef CURSORUM_BUTTON
    return numbering;
}
constexpr KeyNumbering numbering_of_hid() {
    KeyNumbering numbering{};
#define CURSORUM_BUTTON(name, number, hid_page, hid_usage, linux_code, what) \
    if ((hid_page) == 0x07) numbering[(hid_usage) % 256] = controls::name;
#include "core/controls/control_list.hpp"
#undef CURSORUM_BUTTON
    return numbering;
}

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
        case KeyTable::hid_usage: return number < 256 ? numbering_of(table)[number] : Button{};
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

const KeyNumbering& numbering_of(KeyTable table) noexcept {
    static constexpr KeyNumbering of_linux = numbering_of_linux(0), of_x = numbering_of_linux(first_x_keycode),
                                  of_hid = numbering_of_hid(), of_scan_codes = numbering_of(scan_codes),
                                  of_virtual_keys = numbering_of(virtual_keys),
                                  of_macintosh = numbering_of(macintosh_keys);
    static constexpr KeyNumbering of_messages = [] {
        KeyNumbering numbering = of_scan_codes;
        numbering[num_lock] = controls::Pause;
        return numbering;
    }();
    static constexpr KeyNumbering of_pads = [] {
        KeyNumbering numbering{};
        for (std::size_t i = 0; i < pad_order.size(); ++i) numbering[i] = pad_order[i];
        return numbering;
    }();
    switch (table) {
        case KeyTable::linux_code: return of_linux;
        case KeyTable::x_keycode: return of_x;
        case KeyTable::hid_usage: return of_hid;
        case KeyTable::scan_code: return of_scan_codes;
        case KeyTable::message_scan_code: return of_messages;
        case KeyTable::virtual_key: return of_virtual_keys;
        case KeyTable::macintosh: return of_macintosh;
        case KeyTable::standard_pad: break;
    }
    return of_pads;
}

Button button_of_code(std::string_view code) noexcept {
    // Names that browsers had before the specification was finished.
    if (code == "OSLeft") return controls::MetaLeft;
    if (code == "OSRight") return controls::MetaRight;
    const ControlInfo* const info = find_control(code);
    return info && info->family == ControlFamily::key && !code.starts_with("KeyExtra") ? info->button : Button{};
}

}  // namespace cursorum
