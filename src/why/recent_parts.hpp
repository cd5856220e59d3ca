// The entries of RecentInput, for its own files: a ring of small records. A frame has one for each thing that it took,
// and then one that ends it.
#pragma once

#include <array>
#include <bit>
#include <cstdint>
#include <vector>

#include "actions/reader_facts.hpp"
#include "core/frame/frame_core.hpp"
#include "cursorum/why/recent_input.hpp"

namespace cursorum {

enum class EntryType : std::uint8_t {
    edge,        // of a device's button: `extra` is its SlotKind, `code` the button
    axis,        // `code` the axis, `extra` whether it was not moved by a person, `a` the value
    motion,      // `a`, `b` the distance; `extra` what follows
    wheel,       // likewise
    carried,     // `a`, `b`: the distance from a whole step at the end of a pause
    contact,     // `code` the phase, `extra` the contact; followed by its pressure
    more,        // two more numbers of the previous entry
    locks,       // `extra` which are on, `a` whether that was in a pause
    connect,     // of a device
    disconnect,  // likewise
    shaping,     // `extra` its place
    call,        // of the reader, likewise
    skip,        // the following entries of this frame are the cancels and adopts at the end of a pause; `a`: its start
    frame,       // ends here: `a` is its start
};

struct Entry {
    std::int64_t time = 0;
    EntryType type{};
    std::uint8_t device = 0;
    std::uint16_t code = 0;
    std::uint32_t extra = 0;
    std::uint64_t a = 0, b = 0;

    double x() const noexcept { return std::bit_cast<double>(a); }
    double y() const noexcept { return std::bit_cast<double>(b); }
};
static_assert(sizeof(Entry) == 32);

inline constexpr std::uint32_t has_raw_bit = 1, has_place_bit = 2;  // of motion
inline constexpr std::uint32_t has_gap_bit = 1;                     // of a frame

/// The state at a frame's end.
struct Checkpoint {
    bool is_set = false;
    std::uint64_t at = 0;                         // the entry that comes next
    std::uint64_t calls_at = 0, shapings_at = 0;  // likewise
    std::int64_t time = 0;
    std::array<detail::Slot, hold_capacity> holds{};
    std::array<std::int64_t, detail::no_button + 1> start{};  // of merged buttons
    std::array<bool, button_capacity + 1> adopted{};
    ButtonSet::Words levels{};
    struct AxisValue {
        DeviceId device{};
        Axis axis{};
        double value = 0;
    };
    std::array<AxisValue, axis_capacity> axes{};  // `axis_count` are in use
    unsigned axis_count = 0;
    detail::PointerLevels pointer;
    detail::DeviceBits connected{};
    std::array<detail::OccasionSlot, contact_capacity> contacts{};
    std::array<double, 2> wheel_carried{};
    ActionReader::State reader;
};

struct RecentParts {
    RecentParts(const Timeline& of, const Sampler& by, ActionReader& read_by, const RecentInputOptions& options);
    ~RecentParts();
    RecentParts(const RecentParts&) = delete;
    RecentParts& operator=(const RecentParts&) = delete;

    void note();
    void forget() noexcept;
    bool is_going() const noexcept { return checkpoints[last_checkpoint % checkpoint_count].is_set; }
    const Checkpoint* beginning() const noexcept;

    void add(const Entry& entry) noexcept { entries[written++ & (entries.size() - 1)] = entry; }
    void add_pair(Entry entry, double x, double y) noexcept {
        entry.a = std::bit_cast<std::uint64_t>(x);
        entry.b = std::bit_cast<std::uint64_t>(y);
        add(entry);
    }
    void add_calls(std::int64_t start);
    void add_in_turn(const FrameCore& frame);
    void add_edges(const FrameCore& frame, std::uint32_t from, std::uint32_t to);
    void add_axes(const FrameCore& frame, std::uint32_t from, std::uint32_t to);
    void add_others(const FrameCore& frame);
    void add_motion(const FrameCore& frame, const PointerReading& pointer);
    void add_occasions(const FrameCore& frame, std::uint32_t from, std::uint32_t to);
    void add_occasion(const detail::OccasionSlot& occasion);
    void note_shapings(const FrameCore& frame, bool is_new);
    void add_frame(const FrameCore& frame);
    static std::array<double, 2> carried_at(const detail::MotionSlot& moved) noexcept;
    void add_checkpoint(const FrameCore& frame);

    static constexpr unsigned checkpoint_count = 8, call_room = 256, shaping_room = 64;

    const Timeline& timeline;
    const Sampler& sampler;
    ActionReader& reader;
    std::int64_t length;
    std::vector<Entry> entries;  // a ring
    std::uint64_t written = 0;
    std::vector<Checkpoint> checkpoints;  // likewise
    std::uint64_t last_checkpoint = 0;
    detail::CallLog log;
    std::uint64_t calls_taken = 0;  // of the log
    std::vector<detail::LoggedCall> calls;
    std::uint64_t calls_written = 0;
    std::vector<DeviceShaping> shapings;
    std::uint64_t shapings_written = 0;
    std::array<std::uint32_t, device_capacity> shaping_counts{};  // as they were last seen
    std::uint64_t last_serial = 0;
    std::uint32_t last_bindings = 0;
    bool every_key;
    ButtonSet kept;  // of the buttons
    void choose_kept();
    std::int64_t last_end = 0;
    WindowPoint last_place{};
};

}  // namespace cursorum
