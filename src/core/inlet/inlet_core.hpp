// Processing of an inlet's events, for the inlet's own files. The rules run here once, when an event is posted; what
// they made of it goes into the rings of InletHistory. Each stream has a writer with a state of its own.
#pragma once

#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <utility>

#include "core/devices/device_directory.hpp"
#include "core/inlet/axis_writer.hpp"
#include "core/inlet/button_writer.hpp"
#include "core/inlet/contact_writer.hpp"
#include "core/inlet/inlet_posting.hpp"
#include "core/inlet/motion_writer.hpp"
#include "core/occasions/click_tracker.hpp"
#include "core/rings/one_thread.hpp"
#include "core/rings/thread_guard.hpp"
#include "core/text/text_writer.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"

namespace cursorum {

/// The implementation of an inlet, constructed by its timeline; Inlet's members call it. It finds an event's device,
/// and the writer of its stream does the rest.
class InletCore final : public Inlet, public detail::InletPosting {
public:
    InletCore(const TimelineOptions& options, const Numbers& numbers, detail::DeviceDirectory& directory);

    using InletHistory::complete_until;
    using InletHistory::counters;
    using InletHistory::latest;

private:
    friend class Inlet;

    static constexpr std::uint8_t no_device = 255;  // in place of a device's number

    detail::Device* find_device(DeviceId id) noexcept;
    Outcome not_listening(const detail::Device* device) noexcept;

    // Events of one stream.
    template <bool noted>
    Outcome press(DeviceId id, Button button, bool down, Time when) noexcept;
    Outcome press_and_note(DeviceId id, Button button, bool down, Time when) noexcept;
    Outcome post_button(DeviceId id, Button button, bool down, Time when) noexcept;
    Outcome post_any_button(DeviceId id, Button button, bool down, bool marked, Time when) noexcept;
    Outcome post_motion(const Event& event) noexcept;
    void note_motion(DeviceId id, detail::MotionFields moved, std::int64_t stamp,
                     const detail::FixedDistance& total_before) noexcept;
    template <unsigned known, bool noted>
    Outcome move(DeviceId id, const detail::MotionFields& moving, Time when) noexcept;
    Outcome move_and_note(DeviceId id, unsigned fields, double dx, double dy, double x, double y, double raw_dx,
                          double raw_dy, Time when) noexcept;
    template <unsigned known>
    Outcome post_moving(DeviceId id, const detail::MotionFields& moving, Time when) noexcept;
    Outcome post_motions(DeviceId id, std::span<const MotionSample> samples) noexcept;
    template <bool noted, std::size_t count>
    Outcome set_axes(DeviceId id, const std::array<detail::AxisWriter::Value, count>& values, Time when) noexcept;
    template <std::size_t count>
    Outcome post_axes(DeviceId id, const std::array<detail::AxisWriter::Value, count>& values, Time when) noexcept;
    Outcome post_shaping(DeviceId id, const DeviceShaping& shaping, Time when) noexcept;
    Outcome post_contact(const Event& event) noexcept;
    Outcome post_pointer_flags(const Event& event) noexcept;
    Outcome post_text(const Event& event) noexcept;
    std::pair<Button, unsigned> key_just_pressed(std::int64_t time) const noexcept;
    void write_pointer_flags(const detail::Device& device) noexcept;

    // Events of any stream, or of several.
    Outcome post_event(const Event& event) noexcept;
    Outcome post_connect(DeviceId device, const DeviceInfo& info, Time when) noexcept;
    Outcome apply_connect(DeviceId id, const DeviceInfo& info) noexcept;
    Outcome post_disconnect(DeviceId id, Time when) noexcept;
    Outcome post_state(DeviceId id, const ButtonSet* down, const AxisValues& axes, bool adopt, Time when) noexcept;
    Outcome post_locks(const ButtonSet& on, Time when) noexcept;
    Outcome post_focus(bool has, const ButtonSet* down, Time when) noexcept;
    Outcome apply_focus(bool has) noexcept;
    Outcome post_interrupt(const ButtonSet* down, Time when) noexcept;
    void adopt_desk(const ButtonSet& down) noexcept;
    void cancel_all(detail::Reach reach) noexcept;

    std::uint64_t count_of(Outcome outcome) const noexcept { return outcomes_[static_cast<unsigned>(outcome)].get(); }
    bool is_known(DeviceId device) const noexcept { return directory_->find(device) != detail::DeviceDirectory::none; }
    bool shows_connected(DeviceId id) const noexcept;
    /// It is not connected, and the device described is equal to it.
    bool may_come_back(DeviceId id, const DeviceInfo& info) const noexcept;
    void report_complete(Time until) noexcept;
    void limit(std::optional<Duration> limit) noexcept {
        const OneThread here{guard_};
        limit_ahead(limit);
    }
    void set_source_losses(std::uint64_t overflows, std::uint64_t unread_devices) noexcept {
        source_overflows_.set(overflows), unread_devices_.set(unread_devices);
    }

    // The producer's own.
    detail::ThreadGuard guard_;
    detail::Device* recent_device_;
    unsigned device_count_ = 0;
    detail::DeviceDirectory* directory_;
    const detail::OccasionWriter occasion_writer_{occasions_,         contact_table_, numbers_.first_contact,
                                                  changes_of_others_, latest_,        late_at()};
    // One for each stream.
    detail::MotionWriter motion_writer_;
    detail::ClickTracker clicks_;
    detail::ButtonWriter buttons_{*this, clicks_};
    detail::AxisWriter axis_writer_{*this, buttons_};
    detail::TextWriter text_writer_{texts_, changes_of_others_, latest_, late_at()};
    detail::ContactWriter contact_writer_{*this, occasion_writer_, motion_writer_, buttons_, clicks_};
};

inline detail::Device* InletCore::find_device(DeviceId id) noexcept {
    if (recent_device_->id == id && recent_device_->number != no_device) [[likely]]
        return recent_device_;
    const unsigned place = directory_->find(id) - numbers_.first_device;
    return place < device_count_ ? recent_device_ = &devices_[place] : nullptr;
}

inline InletCore& core_of(Inlet& inlet) noexcept { return static_cast<InletCore&>(inlet); }
inline const InletCore& core_of(const Inlet& inlet) noexcept { return static_cast<const InletCore&>(inlet); }

}  // namespace cursorum
