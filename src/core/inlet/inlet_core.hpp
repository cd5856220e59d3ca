// Processing of an inlet's events, for the inlet's own files. The rules run here once, when an event is posted; what
// they made of it goes into the rings of InletHistory.
#pragma once

#include <array>
#include <cstdint>
#include <memory>
#include <span>

#include "core/devices/device_directory.hpp"
#include "core/inlet/inlet_history.hpp"
#include "core/motion/pointer_state.hpp"
#include "core/occasions/click_tracker.hpp"
#include "core/rings/thread_guard.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {

/// The implementation of an inlet, constructed by its timeline; Inlet's members call it.
class InletCore final : public Inlet, public detail::InletHistory {
public:
    InletCore(const TimelineOptions& options, const Numbers& numbers, detail::DeviceDirectory& directory);

    using InletHistory::complete_until;
    using InletHistory::counters;
    using InletHistory::latest;

private:
    friend class Inlet;

    static constexpr std::uint8_t no_device = 255;  // in place of a device's number

    struct Keys;
    struct Contact {
        detail::Device* device = nullptr;
        std::uint32_t id = 0;
        std::int64_t time = 0;
        detail::FixedDistance begin{}, position{};
        double pressure = 0;
        bool points = false;
    };
    /// The fields of a motion or wheel event, and which of them are present.
    struct MotionFields {
        unsigned fields = 0;
        double dx = 0, dy = 0, x = 0, y = 0, raw_dx = 0, raw_dy = 0;
        static constexpr unsigned motion = 1, position = 2, raw = 4, wheel = 8, warp = 16;
    };
    /// Which button on which device has a hold's number.
    struct Bound {
        detail::Device* device = nullptr;
        Button button;
    };

    detail::Device* find_device(DeviceId id) noexcept;
    // Every event runs begin, one rule, finish.
    void begin(Time stamp) noexcept;
    std::uint32_t next_tag(unsigned hold, bool is_virtual) noexcept;
    void begin_out_of_order(std::int64_t stamp) noexcept;
    std::int64_t accepted(std::int64_t stamp) noexcept;
    Outcome finish(Outcome outcome) noexcept;
    void show_holds() noexcept;
    void write(detail::SlotKind kind, const detail::Device& device, Button button, unsigned trait, unsigned hold,
               bool was_pressed) noexcept;
    void write_slot(detail::SlotKind kind, const detail::Device& device, unsigned button, unsigned hold,
                    bool was_pressed) noexcept;

    Outcome post_event(const Event& event) noexcept;
    Outcome post_connect(DeviceId device, const DeviceInfo& info, Time when) noexcept;
    Outcome post_disconnect(DeviceId id, Time when) noexcept;
    Outcome post_locks(const ButtonSet& on, Time when) noexcept;
    Outcome post_shaping(DeviceId id, const DeviceShaping& shaping, Time when) noexcept;
    Outcome post_motions(DeviceId id, std::span<const MotionSample> samples) noexcept;
    std::uint64_t count_of(Outcome outcome) const noexcept { return outcomes_[static_cast<unsigned>(outcome)].get(); }
    bool is_known(DeviceId device) const noexcept { return directory_->find(device) != detail::DeviceDirectory::none; }
    bool shows_connected(DeviceId id) const noexcept;
    /// It is not connected, and the device described is equal to it.
    bool may_come_back(DeviceId id, const DeviceInfo& info) const noexcept;
    void report_complete(Time until) noexcept;
    void limit_ahead(std::optional<Duration> limit) noexcept;
    void set_source_losses(std::uint64_t overflows, std::uint64_t unread_devices) noexcept {
        source_overflows_.set(overflows), unread_devices_.set(unread_devices);
    }

    Outcome post_button(DeviceId id, Button button, bool down, Time when) noexcept;
    Outcome post_any_button(DeviceId id, Button button, bool down, bool marked, Time when) noexcept;
    Outcome post_state(DeviceId id, const ButtonSet* down, const AxisValues& axes, bool adopt, Time when) noexcept;
    Outcome post_motion(const Event& event) noexcept;
    void move_pointer_with(detail::Device& device, const Event& event) noexcept;
    template <unsigned known>
    Outcome post_moving(DeviceId id, const MotionFields& moving, Time when) noexcept;
    void publish_motions() noexcept;
    std::size_t write_plain_motions(const detail::Device& device, std::span<const MotionSample> samples) noexcept;
    template <unsigned known>
    void write_moving(detail::Device& device, const MotionFields& moving, Time when, bool is_extra) noexcept;
    struct AxisValue {
        unsigned axis;
        double value;
    };
    /// The effect of an event on a device's axes; bit n: axis n.
    struct AxisChanges {
        std::uint32_t touched = 0;             // posted with another value than before, or for the first time
        std::uint32_t values = 0, shaped = 0;  // the value changed, the shaped value
        bool is_forced = false;                // nobody moved them
    };
    /// The values are of one axis or of one stick.
    template <std::size_t count>
    Outcome post_axes(DeviceId id, std::array<AxisValue, count> values, Time when) noexcept;
    Outcome post_contact(const Event& event) noexcept;
    Outcome post_pointer_flags(const Event& event) noexcept;
    Outcome not_listening(const detail::Device* device) noexcept;
    Outcome apply_connect(DeviceId id, const DeviceInfo& info) noexcept;
    Outcome apply_focus(bool has) noexcept;
    Outcome post_focus(bool has, const ButtonSet* down, Time when) noexcept;
    Outcome post_interrupt(const ButtonSet* down, Time when) noexcept;
    void adopt_desk(const ButtonSet& down) noexcept;

    bool edge(detail::SlotKind kind, detail::Device& device, Button button) noexcept;
    bool try_bind_hold(detail::Device& device, Button button) noexcept;
    ButtonSet down_on(const detail::Device& device) const noexcept;
    enum class Reach : std::uint8_t { device, foreground, everything };
    static bool reaches(Reach reach, const detail::Device* only, const detail::Device& device) noexcept;
    void cancel_all(Reach reach, detail::Device* device) noexcept;

    void write_pointer_flags(const detail::Device& device) noexcept;
    Outcome apply_contact(detail::Device& device, const Event& event) noexcept;
    void end_contact(unsigned place, detail::OccasionKind kind) noexcept;
    void write_contact(unsigned place, detail::OccasionKind kind) noexcept;
    Outcome apply_axes(detail::Device& device, const AxisValues& axes, bool adopting) noexcept;
    Outcome change_axis(detail::Device& device, AxisValue to, AxisChanges& changes) noexcept;
    bool try_bind_track(detail::Device& device, unsigned axis) noexcept;
    void write_axes(const detail::Device& device, AxisChanges changes, bool counts) noexcept;
    void write_undo(const detail::Device& device) noexcept;
    void apply_changes(detail::Device& device, AxisChanges& changes, bool adopting) noexcept;
    template <unsigned count>
    std::uint32_t reshape(detail::Device& device, unsigned first) noexcept;
    detail::AxisButtons begin_axis_buttons(detail::Device& device) noexcept;
    template <unsigned count>
    static void update_buttons(const detail::Device& device, unsigned first, detail::AxisButtons& now) noexcept;
    void change_axis_buttons(detail::Device& device, const detail::AxisButtons& down, const detail::AxisButtons& now,
                             bool adopting) noexcept;
    void rest(detail::Device& device) noexcept;

    // The producer's own.
    detail::Device* recent_device_;
    std::int64_t accepted_until_ = nanoseconds(latest_time);  // later stamps are checked
    std::int64_t ahead_limit_ = -1;                           // none
    std::int64_t stamp_ = 0;                                  // of the present event, as accepted
    std::uint64_t event_begin_ = 0;                           // where its slots begin
    std::uint64_t late_at_ = detail::in_time;                 // position of its slot `late`
    unsigned late_slots_ = 0;                                 // how many of them
    std::uint64_t axes_alone_end_ = 0;          // the position after the last event that is only in the ring of axes
    std::int64_t axes_alone_time_ = INT64_MIN;  // time of the last event that is only in the ring of axes
    detail::ThreadGuard guard_;
    unsigned device_count_ = 0;
    unsigned next_hold_ = 0;
    detail::FixedDistance motion_{}, raw_{}, wheel_{};  // totals
    detail::PointerState pointer_;
    std::array<std::int64_t, 2> wheel_carried_{};  // turned, but not yet a whole step
    std::array<std::uint32_t, 2> steps_{};
    std::uint64_t motion_counts_ = 0;  // as in slots
    const detail::OccasionWriter occasion_writer_{occasions_,         contact_table_, numbers_.first_contact,
                                                  changes_of_others_, latest_,        late_at_};
    detail::ClickTracker clicks_;
    std::array<Contact, contact_capacity> contacts_{};
    std::array<std::uint16_t, button_capacity> holders_{};  // merged: see merging.hpp
    std::array<Bound, hold_capacity> bound_{};
    detail::DeviceDirectory* directory_;
};

inline InletCore& core_of(Inlet& inlet) noexcept { return static_cast<InletCore&>(inlet); }
inline const InletCore& core_of(const Inlet& inlet) noexcept { return static_cast<const InletCore&>(inlet); }

}  // namespace cursorum
