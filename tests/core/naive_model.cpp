#include "core/naive_model.hpp"

#include <algorithm>
#include <sstream>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"

namespace test {

using namespace controls;

std::vector<Button> keys_of(Button button) {
    if (button == Shift) return {ShiftLeft, ShiftRight};
    if (button == Control) return {ControlLeft, ControlRight};
    if (button == Alt) return {AltLeft, AltRight};
    if (button == Meta) return {MetaLeft, MetaRight};
    return {button};
}

namespace {

// The merged names that a key belongs to: its own, and perhaps an either-side one.
std::vector<Button> names_of(Button key) {
    std::vector<Button> names{key};
    for (const Button either : {Shift, Control, Alt, Meta}) {
        const auto keys = keys_of(either);
        if (std::find(keys.begin(), keys.end(), key) != keys.end()) names.push_back(either);
    }
    return names;
}

bool listens(bool connected, bool focused, bool background) { return connected && (focused || background); }

}  // namespace

bool NaiveSampler::advance(std::int64_t t1) {
    t0_ = t1_;
    device_edges_.clear();
    merged_edges_.clear();
    system_repeats_.clear();
    merged_before_ = merged_now_;
    device_before_ = device_now_;
    if (t1 < t1_) return false;
    t1_ = t1;
    while (Queue* inlet = earliest_head(t1)) {
        const Event& event = inlet->queue[inlet->next++];
        const std::int64_t stamp = nanoseconds(event.time);
        const std::int64_t before = std::max(effective_, t0_);
        late_ += stamp < before;
        effective_ = std::max(stamp, before);
        ++taken_;
        take(event, static_cast<unsigned>(inlet - inlets_.data()));
    }
    return true;
}

NaiveSampler::Queue* NaiveSampler::earliest_head(std::int64_t t1) {
    Queue* earliest = nullptr;
    for (Queue& inlet : inlets_) {
        if (inlet.next == inlet.queue.size() || nanoseconds(inlet.queue[inlet.next].time) > t1) continue;
        if (!earliest || inlet.queue[inlet.next].time < earliest->queue[earliest->next].time) earliest = &inlet;
    }
    return earliest;
}

void NaiveSampler::take(const Event& event, unsigned inlet) {
    bool& focused = inlets_[inlet].focused;
    const auto id = static_cast<unsigned>(event.device);
    switch (event.type) {
        case EventType::focus:
            if (event.focused == focused) return;
            focused = event.focused;
            for (auto& [number, device] : devices_) {
                if (device.inlet != inlet || device.background) continue;
                if (focused)
                    device.adopt_next = true;
                else
                    cancel(number);
            }
            return;
        case EventType::interrupt:
            for (auto& [number, device] : devices_) {
                if (device.inlet != inlet) continue;
                cancel(number);
                device.adopt_next = true;
            }
            return;
        case EventType::locks: return;
        case EventType::text: ignored_ += !focused; return;
        case EventType::connect: {
            const bool known = devices_.count(id) != 0;
            if (!known && inlets_[inlet].devices == room_) return;
            inlets_[inlet].devices += !known;
            Device& device = devices_[id];
            if (known && (device.connected || device.kind != event.info.kind)) {
                ++strays_;
                return;
            }
            device = {inlet, event.info.kind, true, event.info.marks_repeats, event.info.background, true, {}};
            return;
        }
        default: break;
    }
    const auto found = devices_.find(id);
    if (found == devices_.end() || !found->second.connected) {
        ++strays_;
        return;
    }
    Device& device = found->second;
    if (event.type == EventType::disconnect) {
        cancel(id);
        device.connected = false;
        return;
    }
    if (!listens(device.connected, focused, device.background)) {
        ++ignored_;
        return;
    }
    if (event.type == EventType::button) {
        const std::string name{name_of(event.control)};
        const bool is_down = device.down.count(name) != 0;
        if (!event.down) {
            if (is_down)
                edge(id, name, EdgeKind::release);
            else
                ++strays_;
        } else if (!is_down) {
            edge(id, name, event.system_repeat ? EdgeKind::adopt : EdgeKind::press);
            if (event.system_repeat) system_repeats_.push_back({id, event.control});
        } else if (event.system_repeat || !device.marks) {
            system_repeats_.push_back({id, event.control});
        } else {
            edge(id, name, EdgeKind::cancel);
            edge(id, name, EdgeKind::press);
        }
    } else if (event.type == EventType::state && event.has_down_set) {
        const bool adopt = event.adopt || device.adopt_next;
        device.adopt_next = false;
        std::set<std::string> wanted, known;
        event.down_set.for_each([&](Button b) { wanted.emplace(name_of(b)); });
        for (const auto& [name, held] : device.down) known.insert(name);
        for (const auto& name : known)
            if (wanted.count(name) == 0) edge(id, name, adopt ? EdgeKind::cancel : EdgeKind::release);
        for (const auto& name : wanted)
            if (known.count(name) == 0) edge(id, name, adopt ? EdgeKind::adopt : EdgeKind::press);
    }
}

void NaiveSampler::cancel(unsigned device) {
    while (!devices_[device].down.empty()) edge(device, devices_[device].down.begin()->first, EdgeKind::cancel);
}

void NaiveSampler::edge(unsigned device, const std::string& name, EdgeKind kind) {
    const Button key = find_button(name);
    const bool down = kind == EdgeKind::press || kind == EdgeKind::adopt;
    for (const Button merged : names_of(key)) {
        // Everybody else who holds it: other devices, and other keys of an either-side name.
        bool other_down = false, other_pressed = false;
        for (const auto& [number, of] : devices_) {
            for (const Button other : keys_of(merged)) {
                const auto held = of.down.find(std::string{name_of(other)});
                if (held == of.down.end() || (number == device && other == key)) continue;
                other_down = true;
                other_pressed |= held->second.pressed;
            }
        }
        merged_edge(merged, device, kind, other_down, other_pressed);
    }
    if (down)
        devices_[device].down[name] = {effective_, kind == EdgeKind::press};
    else
        devices_[device].down.erase(name);
    device_edges_.push_back({effective_, device, key, kind});
    device_now_[{device, key.number}] = {down, effective_, kind == EdgeKind::press};
}

void NaiveSampler::merged_edge(Button name, unsigned device, EdgeKind kind, bool other_down, bool other_pressed) {
    const bool down = kind == EdgeKind::press || kind == EdgeKind::adopt;
    if (other_down) {
        if (kind != EdgeKind::press || other_pressed) return;
        merged_edges_.push_back({effective_, device, name, EdgeKind::cancel});
    }
    merged_edges_.push_back({effective_, device, name, kind});
    merged_now_[name.number] = {down, effective_, kind == EdgeKind::press};
}

NaiveFigures NaiveSampler::figures(const Before& before, const std::vector<NaiveEdge>& edges,
                                   std::uint64_t system) const {
    NaiveFigures f;
    f.system_repeat = system;
    f.was_down = f.down = before.down;
    struct Hold {
        std::int64_t from, to;
        bool pressed, open;
    };
    std::vector<Hold> holds;
    if (before.down) holds.push_back({before.since, 0, before.pressed, true});
    for (const NaiveEdge& e : edges) {
        if (e.kind == EdgeKind::press || e.kind == EdgeKind::adopt) {
            ++(e.kind == EdgeKind::press ? f.press : f.adopt);
            holds.push_back({e.time, 0, e.kind == EdgeKind::press, true});
            f.down = true;
        } else {
            ++(e.kind == EdgeKind::release ? f.release : f.cancel);
            holds.back().to = e.time;
            holds.back().open = false;
            f.held_for = e.time - holds.back().from;
            if (e.kind == EdgeKind::release && holds.back().pressed) f.released = true, f.released_after = f.held_for;
            f.down = false;
        }
    }
    for (const Hold& hold : holds) {
        const std::int64_t to = hold.open ? t1_ : hold.to;
        f.down_span += to - std::max(hold.from, t0_);
        if (hold.open) f.held_for = t1_ - hold.from;
        if (!hold.pressed) continue;
        for (std::int64_t pulse = hold.from + repeat_.delay.count(); pulse <= t1_; pulse += repeat_.interval.count())
            f.repeat += pulse > t0_ && (hold.open || pulse < hold.to);
    }
    if (repeat_.cap != 0) f.repeat = std::min<std::uint64_t>(f.repeat, repeat_.cap);
    if (f.was_down && f.down)
        f.state = f.press != 0 ? "dip" : "hold";
    else if (f.was_down)
        f.state = f.release != 0 ? "release" : "cancel";
    else if (f.down)
        f.state = f.press != 0 ? "press" : "hold";
    else
        f.state = edges.empty() ? "idle" : "blip";
    return f;
}

NaiveFigures NaiveSampler::merged(Button button) const {
    std::vector<NaiveEdge> edges;
    for (const NaiveEdge& e : merged_edges_)
        if (e.button == button) edges.push_back(e);
    std::uint64_t system = 0;
    const auto keys = keys_of(button);
    for (const auto& repeat : system_repeats_) system += std::count(keys.begin(), keys.end(), repeat.button);
    const auto before = merged_before_.find(button.number);
    return figures(before == merged_before_.end() ? Before{} : before->second, edges, system);
}

NaiveFigures NaiveSampler::on_device(Button button, unsigned device) const {
    std::vector<NaiveEdge> edges;
    for (const NaiveEdge& e : device_edges_)
        if (e.button == button && e.device == device) edges.push_back(e);
    std::uint64_t system = 0;
    for (const auto& repeat : system_repeats_) system += repeat.button == button && repeat.device == device;
    const auto before = device_before_.find({device, button.number});
    return figures(before == device_before_.end() ? Before{} : before->second, edges, system);
}

NaiveFigures as_naive(const ButtonFigures& f) {
    NaiveFigures n{std::string{name_of(f.state())}, f.press_count(), f.release_count(), f.adopt_count(),
                   f.cancel_count()};
    n.repeat = f.repeat_count(), n.system_repeat = f.system_repeat_count();
    n.held_for = f.held_for().count(), n.down_span = f.down_span().count();
    n.released_after = f.released_after().count();
    n.was_down = f.was_down(), n.down = f.down(), n.released = f.released();
    return n;
}

std::string text(const NaiveFigures& f) {
    std::ostringstream out;
    out << f.state << " p" << f.press << " r" << f.release << " a" << f.adopt << " c" << f.cancel << " rep" << f.repeat
        << " sys" << f.system_repeat << " held " << f.held_for << " span " << f.down_span << " after "
        << f.released_after << (f.released ? " released" : "") << (f.was_down ? " was" : "") << (f.down ? " down" : "");
    return out.str();
}

}  // namespace test
