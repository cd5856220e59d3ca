// The next control that a player moves becomes a binding. Everything is claimed meanwhile; keys that are held when it
// ends become a chord, and a stick counts only once it is clearly pushed.
#include "cursorum/actions/binding_capture.hpp"

#include <algorithm>
#include <cmath>

namespace cursorum {
namespace {

// The devices that count: one device, or all devices of persons. Injected input is never captured.
DeviceFrame part_of(const Frame& frame, DeviceId device) {
    return device == DeviceId{} ? frame.on(Origin::person) : frame.on(device);
}

}  // namespace

BindingCapture::BindingCapture(ActionReader& reader, const CaptureOptions& options)
    : options_{options}, reader_{&reader}, claim_{reader.claim({.everything = true})} {}

void BindingCapture::end_claim() noexcept {
    if (claim_) reader_->end_claim(*claim_);
    claim_.reset();
}

BindingCapture::State BindingCapture::read(const Frame& frame) {
    if (state_ != State::waiting) return state_;
    now_ = frame.end();
    if (!has_begun_) {
        has_begun_ = true;
        begin_ = frame.end();
        const DeviceFrame part = part_of(frame, options_.device);
        for (std::uint8_t i = 0; i < axis_kinds; ++i) axes_[i] = part.raw_axis(Axis{i}).now;
        for (std::uint8_t i = 0; i < stick_kinds; ++i) sticks_[i] = part.stick(Stick{i}).now;
        return state_;
    }
    read_buttons(frame);
    if (state_ == State::waiting && options_.kind == ActionKind::axis) read_axes(frame);
    if (state_ == State::waiting && options_.kind == ActionKind::vector) read_sticks(frame);
    if (state_ == State::waiting && options_.limit != Duration{} && now_ - begin_ >= options_.limit)
        end(State::timed_out);
    return state_;
}

void BindingCapture::read_buttons(const Frame& frame) {
    const bool captures = options_.kind == ActionKind::button;
    const DeviceFrame part = part_of(frame, options_.device);
    for (const Edge& edge : frame.all_edges()) {
        if (edge.kind == EdgeKind::press && options_.stop && edge.button == options_.stop) return end(State::stopped);
        if (!captures || (options_.device != DeviceId{} && edge.device != options_.device)) continue;
        const bool ends = edge.kind == EdgeKind::release || edge.kind == EdgeKind::cancel;
        if (ends && held_.contains(edge.button)) {
            // Focus loss ends an incomplete chord.
            if (edge.kind == EdgeKind::release) return end(State::captured);
            held_ = {};
            binding_ = {};
        }
        if (edge.kind != EdgeKind::press || options_.ignored.contains(edge.button) || held_.contains(edge.button) ||
            part[edge.button].press_count() == 0)
            continue;
        held_.insert(edge.button);
        binding_.kind = Binding::Kind::buttons;
        binding_.buttons.push_back(edge.button);
        if (!options_.chords || binding_.buttons.size() == chord_capacity) return end(State::captured);
    }
    if (!captures || !options_.wheel) return;
    part.pointer().for_each_wheel_step([this](Time, WheelSteps steps) {
        if (state_ != State::waiting || steps == WheelSteps{}) return;
        binding_.kind = Binding::Kind::wheel_step;
        binding_.wheel_way = steps.y > 0   ? WheelWay::up
                             : steps.y < 0 ? WheelWay::down
                             : steps.x > 0 ? WheelWay::right
                                           : WheelWay::left;
        end(State::captured);
    });
}

void BindingCapture::read_axes(const Frame& frame) {
    const DeviceFrame part = part_of(frame, options_.device);
    for (std::uint8_t i = 0; i < axis_kinds; ++i) {
        const Axis axis{i};
        double farthest = 0;
        const auto look = [&](double value) {
            if (std::abs(value - axes_[i]) > std::abs(farthest)) farthest = value - axes_[i];
        };
        part.for_each_raw_value(axis, [&](Time, double value) { look(value); });
        if (std::abs(farthest) < options_.travel) continue;
        constexpr double usual_dead_zone = 0.15;
        binding_ = {.kind = Binding::Kind::axis, .axis = axis, .scale = farthest < 0 ? -1.0 : 1.0};
        binding_.dead_zone = i < 2 * stick_kinds ? usual_dead_zone : 0;
        return end(State::captured);
    }
}

void BindingCapture::read_sticks(const Frame& frame) {
    const DeviceFrame part = part_of(frame, options_.device);
    for (std::uint8_t i = 0; i < stick_kinds; ++i) {
        const Stick stick{i};
        const auto look = [&](Vector2 value) {
            if (state_ == State::waiting &&
                std::hypot(value.x - sticks_[i].x, value.y - sticks_[i].y) >= options_.travel) {
                binding_ = {.kind = Binding::Kind::stick, .stick = stick};
                end(State::captured);
            }
        };
        part.for_each_value(stick, [&](Time, Vector2 value) { look(value); });
    }
}

std::optional<Binding> BindingCapture::binding() const {
    return state_ == State::captured ? std::optional{binding_} : std::nullopt;
}

Duration BindingCapture::time_left() const noexcept {
    return options_.limit == Duration{} || !has_begun_ ? options_.limit
                                                       : std::max(Duration{}, options_.limit - (now_ - begin_));
}

}  // namespace cursorum
