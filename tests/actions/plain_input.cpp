#include "actions/plain_input.hpp"

#include <algorithm>

#include "cursorum/core/controls.hpp"

namespace test {

PlainHolds PlainInput::holds() const {
    PlainHolds all;
    for (const auto& [id, device] : devices_)
        for (const auto& [name, pressed] : device.down) all[{id, name}] = pressed;
    return all;
}

PlainFrame PlainInput::advance(const Tick& tick) {
    PlainFrame frame;
    frame.serial = serial_++;
    frame.last_cut = t1_;
    frame.t0 = std::max(t1_, nanoseconds(tick.begin));
    frame.t1 = nanoseconds(tick.end);
    frame.is_paused = tick.gap == Tick::Gap::paused && frame.t0 > t1_;
    frame.gap_from = nanoseconds(tick.gap_from);
    const auto keep = [&](auto& pads, ButtonSet& locks, PlainContacts& contacts) {
        locks = locks_;
        contacts = contacts_;
        for (const auto& [id, device] : devices_) pads[id] = device.pad;
    };
    frame.holds = holds();
    keep(frame.pads, frame.locks, frame.contacts);
    std::vector<Happening> skipped;
    out_ = &frame.happened;
    effective_ = std::max(effective_, tick.gap == Tick::Gap::none ? frame.t0 : t1_);
    int part = 0;  // before the pause, in it, after it
    PlainHolds at_pause;
    const auto go_on_to = [&](int to) {
        if (part < 1 && to >= 1) {
            frame.skip_at = frame.happened.size();
            at_pause = holds();
            out_ = &skipped;
        }
        if (part < 2 && to >= 2) {
            out_ = &frame.happened;
            effective_ = std::max(effective_, frame.t0);
            keep(frame.pads_after, frame.locks_after, frame.contacts_after);
            const auto all = [&](const PlainHolds& of, EdgeKind kind) {
                for (const auto& [hold, pressed] : of)
                    frame.happened.push_back({.time = frame.t0,
                                              .what = Happening::What::edge,
                                              .order = order_,
                                              .device = hold.first,
                                              .button = find_button(hold.second),
                                              .kind = kind});
            };
            all(at_pause, EdgeKind::cancel);
            all(holds(), EdgeKind::adopt);
            for (auto& [id, device] : devices_)
                for (auto& [name, pressed] : device.down) pressed = false;
        }
        part = std::max(part, to);
    };
    while (next_ < posts_.size() && posts_[next_].time <= frame.t1) {
        const Post& post = posts_[next_];
        // What comes late in front of a pause goes by its own stamp.
        if (frame.is_paused) go_on_to(post.time < frame.gap_from ? 0 : post.time < frame.t0 ? 1 : 2);
        effective_ = std::max(post.time, effective_);
        if (std::find(locks_posts_.begin(), locks_posts_.end(), next_) != locks_posts_.end()) {
            locks_ = post.set;
            out_->push_back({.time = effective_, .what = Happening::What::locks, .order = next_, .locks = locks_});
        } else {
            take(post, next_);
        }
        ++next_;
    }
    if (frame.is_paused) go_on_to(2);
    t1_ = frame.t1;
    out_ = nullptr;
    return frame;
}

void PlainInput::edge(unsigned id, std::string name, EdgeKind kind) {
    if (kind == EdgeKind::press || kind == EdgeKind::adopt)
        devices_[id].down[name] = kind == EdgeKind::press;
    else
        devices_[id].down.erase(name);
    const Button button = find_button(name);
    last_key_ = kind == EdgeKind::press && is_key(button) ? button : Button{};
    last_device_ = id;
    out_->push_back({.time = effective_,
                     .what = Happening::What::edge,
                     .order = order_,
                     .device = id,
                     .button = find_button(name),
                     .kind = kind});
}

void PlainInput::cancel(unsigned id) {
    while (!devices_[id].down.empty()) edge(id, devices_[id].down.begin()->first, EdgeKind::cancel);
}

// What is not yet a composition begins; what is none cannot be cancelled.
void PlainInput::type(const Post& post) {
    TextPhase phase = post.text_phase;
    const bool composes = phase == TextPhase::begin || phase == TextPhase::change;
    if ((phase == TextPhase::cancel && !is_composing_) || (phase == TextPhase::typed && post.text.empty())) return;
    if (composes) phase = is_composing_ ? TextPhase::change : TextPhase::begin;
    if (phase == TextPhase::commit && !is_composing_) phase = TextPhase::typed;
    const Button key = post.button ? post.button : last_key_;
    const unsigned device = post.device != 0 ? post.device : key && key == last_key_ ? last_device_ : 0;
    if (composes) composing_ = device;
    is_composing_ = composes || (is_composing_ && phase == TextPhase::typed);
    out_->push_back({.time = effective_,
                     .what = Happening::What::text,
                     .order = order_,
                     .device = device,
                     .button = key,
                     .text_phase = phase,
                     .text = phase == TextPhase::cancel ? "" : post.text});
}

void PlainInput::cancel_text(unsigned id) {
    if (!is_composing_ || (id != 0 && id != composing_)) return;
    is_composing_ = false;
    out_->push_back({.time = effective_,
                     .what = Happening::What::text,
                     .order = order_,
                     .device = composing_,
                     .text_phase = TextPhase::cancel});
}

void PlainInput::rest(unsigned id) {
    Device& device = devices_[id];
    cancel(id);
    for (unsigned place = 0; place < 8; ++place)
        if (std::erase_if(contacts_, [&](const auto& it) { return it.device == id && it.place == place; }) != 0)
            touched(id, true);
    const bool moved = device.pad.raw != PlainPad{}.raw || device.pad.shaped != PlainPad{}.shaped;
    device.pad = {};
    device.directions = 0;
    if (!moved) return;
    for (unsigned axis = 0; axis < 6; ++axis)
        out_->push_back({.time = effective_,
                         .what = Happening::What::axes,
                         .order = order_,
                         .device = id,
                         .first = {static_cast<std::uint8_t>(axis)},
                         .count = 1,
                         .is_forced = true});
}

void PlainInput::touched(unsigned id, bool is_forced) {
    out_->push_back({.time = effective_,
                     .what = Happening::What::touch,
                     .order = order_,
                     .device = id,
                     .is_forced = is_forced,
                     .contacts = contacts_});
}

// Of the one that was posted, or of a whole pad at once. What ends comes before what begins, each by number.
void PlainInput::reshape(unsigned id, const std::vector<Axis>& axes, bool is_forced) {
    std::set<std::uint16_t> ended, started;
    for (const Axis axis : axes) reshape(id, axis, ended, started);
    for (const std::uint16_t number : ended)
        edge(id, std::string{name_of(Button{number})}, is_forced ? EdgeKind::cancel : EdgeKind::release);
    for (const std::uint16_t number : started)
        edge(id, std::string{name_of(Button{number})}, is_forced ? EdgeKind::adopt : EdgeKind::press);
    for (const Axis axis : axes)
        out_->push_back({.time = effective_,
                         .what = Happening::What::axes,
                         .order = order_,
                         .device = id,
                         .raw = devices_[id].pad.raw,
                         .shaped = devices_[id].pad.shaped,
                         .first = axis,
                         .count = is_pull(axis) ? 1U : 2U,
                         .is_forced = is_forced});
}

void PlainInput::reshape(unsigned id, Axis first, std::set<std::uint16_t>& ended, std::set<std::uint16_t>& started) {
    Device& device = devices_[id];
    const ButtonThresholds& limits = device.shaping.thresholds;
    if (!is_pull(first)) {
        const Vector2 v = shape(device.shaping.sticks[first.number / 2],
                                {device.pad.raw[first.number], device.pad.raw[first.number + 1U]});
        device.pad.shaped[first.number] = v.x, device.pad.shaped[first.number + 1U] = v.y;
        const std::uint8_t now =
            directions_of(v, device.directions, device.shaping.sticks[first.number / 2].directions, limits);
        for (unsigned d = 0; d < 4; ++d) {
            const bool was = (device.directions >> d & 1) != 0, is = (now >> d & 1) != 0;
            const Button button = direction_button({static_cast<std::uint8_t>(first.number / 2)}, Direction(d));
            if (was && !is) ended.insert(button.number);
            if (is && !was) started.insert(button.number);
        }
        device.directions = now;
    } else {
        const double v = shape(device.shaping.pulls[first.number - 4U], device.pad.raw[first.number]);
        device.pad.shaped[first.number] = v;
        const Button button = axis_button(first);
        const bool was = device.down.contains(std::string{name_of(button)});
        const bool is = was ? v > limits.release : v >= limits.press;
        if (was && !is) ended.insert(button.number);
        if (is && !was) started.insert(button.number);
    }
}

void PlainInput::take(const Post& post, std::size_t order) {
    order_ = order;
    using What = Post::What;
    Device& device = devices_[post.device];
    switch (post.what) {
        case What::blur:
            if (!focused_) return;
            focused_ = false;
            for (auto& [id, its] : devices_)
                if (its.connected) rest(id);
            cancel_text(0);
            return;
        case What::focus: {
            if (focused_) return;
            focused_ = true;
            // Of the desk's devices, what is down is adopted.
            std::map<std::string, unsigned> names;
            post.set.for_each([&](Button button) {
                names[std::string{name_of(button)}] = button.number >= controls::MouseLeft.number ? 2 : 1;
            });
            for (const unsigned id : {1U, 2U})
                for (const auto& [name, its] : names)
                    if (its == id) edge(id, name, EdgeKind::adopt);
            return;
        }
        case What::connect:
            if (device.connected) return;
            device.connected = true, device.kind = post.kind, device.marks_repeats = post.marks_repeats;
            return;
        case What::disconnect:
            rest(post.device);
            cancel_text(post.device);
            device.connected = false;
            return;
        case What::shaping:
            device.shaping = post.shaping;
            reshape(post.device, {Axis{0}, controls::PadPullRight}, true);
            return;
        default: break;
    }
    if (post.what == What::text && post.device == 0) return focused_ ? type(post) : void();
    if (!device.connected || !focused_) return;
    if (post.what == What::text) return type(post);
    const std::string name{name_of(post.button)};
    const bool is_down = device.down.contains(name);
    const auto repeats = [&] {
        out_->push_back({.time = effective_,
                         .what = Happening::What::system_repeat,
                         .order = order,
                         .device = post.device,
                         .button = post.button});
        last_key_ = is_key(post.button) ? post.button : Button{}, last_device_ = post.device;
    };
    switch (post.what) {
        case What::button:
            if (!post.down) {
                if (is_down) edge(post.device, name, EdgeKind::release);
            } else if (!is_down) {
                edge(post.device, name, EdgeKind::press);
            } else if (!device.marks_repeats) {
                repeats();
            } else {
                edge(post.device, name, EdgeKind::cancel);
                edge(post.device, name, EdgeKind::press);
            }
            return;
        case What::system_repeat:
            if (!is_down) edge(post.device, name, EdgeKind::adopt);
            repeats();
            return;
        case What::stick:
            device.pad.raw[0] = post.x, device.pad.raw[1] = post.y;
            return reshape(post.device, {Axis{0}}, false);
        case What::pull:
            device.pad.raw[controls::PadPullRight.number] = post.x;
            return reshape(post.device, {controls::PadPullRight}, false);
        case What::contact: {
            const auto found = std::find_if(contacts_.begin(), contacts_.end(), [&](const PlainContact& it) {
                return it.device == post.device && it.contact == post.contact;
            });
            const bool begins = post.phase == ContactPhase::begin, is_there = found != contacts_.end();
            if (!begins && !is_there) return;
            PlainContact now{post.device, post.contact, {post.x, post.y}, post.pressure, is_there ? found->place : 0};
            if (post.phase == ContactPhase::move) {
                *found = now;
                return touched(post.device, false);
            }
            if (is_there) {
                contacts_.erase(found);
                touched(post.device, begins);  // the end of the one before was lost
            }
            if (!begins) return;
            const auto is_taken = [&](const PlainContact& it) { return it.place == now.place; };
            for (now.place = 0; std::any_of(contacts_.begin(), contacts_.end(), is_taken);) ++now.place;
            contacts_.push_back(now);
            return touched(post.device, false);
        }
        case What::motion:
        case What::wheel:
            out_->push_back({.time = effective_,
                             .what = post.what == What::wheel ? Happening::What::wheel : Happening::What::motion,
                             .order = order,
                             .device = post.device,
                             .x = post.x,
                             .y = post.y});
            return;
        default: return;
    }
}

}  // namespace test
