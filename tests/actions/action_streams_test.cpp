// Random profiles and programs against a plain second implementation of action readers (plain_reader.hpp): bindings of
// every kind, gestures, modes, claims, seats, pauses, stalls, rebinding, injected input, saving and restoring. A
// failure prints its seed; CURSORUM_TEST_SEED=N runs that one alone, CURSORUM_TEST_PROGRAMS=N that many.

#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <deque>
#include <iostream>
#include <map>
#include <optional>
#include <set>
#include <sstream>
#include <string>
#include <utility>
#include <vector>

#include "actions/plain_reader.hpp"
#include "core/random_events.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace test {

void PrintTo(const PlainReader::Figures& f, std::ostream* out) {
    *out << f.press << " presses " << f.release << " releases " << f.adopt << " adopts " << f.cancel << " cancels "
         << f.repeat << " repeats " << f.system_repeat << " system repeats, held " << f.held_for << ", down for "
         << f.down_span << (f.was_down ? ", was down" : "") << (f.down ? ", down" : "")
         << (f.released ? ", released" : "");
}
void PrintTo(const PlainReader::Edge& e, std::ostream* out) {
    *out << e.time << " " << e.action << " " << name_of(e.kind) << (e.of_adopted ? " (of adopted)" : "");
}
void PrintTo(const PlainReader::Change& c, std::ostream* out) {
    *out << c.time << " by " << c.by << (c.opened ? " opens " : " closes ") << c.mode;
}

}  // namespace test

namespace {

using namespace cursorum;
using namespace test;

constexpr unsigned mode_count = 3;
constexpr Button keyboard_keys[] = {controls::KeyA, controls::KeyB,        controls::KeyC,        controls::KeyD,
                                    controls::KeyE, controls::ControlLeft, controls::ControlRight};
constexpr Button pad_buttons[] = {controls::PadSouth, controls::PadEast};
/// What bindings name.
const std::vector<Button> bindable{controls::KeyA,
                                   controls::KeyB,
                                   controls::KeyC,
                                   controls::KeyD,
                                   controls::KeyE,
                                   controls::ControlLeft,
                                   controls::Control,
                                   controls::MouseLeft,
                                   controls::PadSouth,
                                   direction_button(controls::PadStickLeft, Direction::up),
                                   direction_button(controls::PadStickLeft, Direction::right),
                                   axis_button(controls::PadPullRight)};

class Maker {
public:
    explicit Maker(Random& random) : random_{random} {}

    Duration span(std::uint64_t below) { return Duration{static_cast<std::int64_t>(random_.below(below))}; }
    std::vector<Button> some(std::size_t count) {
        std::vector<Button> all = bindable, some;
        for (std::size_t i = 0; i < count; ++i) {
            const auto at = static_cast<std::ptrdiff_t>(random_.below(all.size()));
            some.push_back(all[static_cast<std::size_t>(at)]);
            all.erase(all.begin() + at);
        }
        return some;
    }
    Binding binding(ActionKind of) {
        using Kind = Binding::Kind;
        Binding binding;
        if (of == ActionKind::button) {
            switch (random_.below(8)) {
                case 0:
                    binding.kind = Kind::wheel_step;
                    binding.wheel_way = static_cast<WheelWay>(1 + random_.below(4));
                    binding.buttons = some(random_.below(3));
                    binding.in_order = !binding.buttons.empty() && random_.one_in(2);
                    return binding;
                case 1:
                    binding.kind = Kind::lock;
                    binding.lock = random_.one_in(2) ? controls::CapsLock : controls::NumLock;
                    return binding;
                case 2:
                    binding.kind = Kind::value;
                    binding.buttons = {random_.one_in(2) ? axis_button(controls::PadPullRight)
                                                         : direction_button(controls::PadStickLeft, Direction::up)};
                    binding.thresholds.press = 0.5 + 0.1 * static_cast<double>(random_.below(5));
                    binding.thresholds.release = 0.3 + 0.1 * static_cast<double>(random_.below(2));
                    return binding;
                case 3:
                    binding.kind = Kind::touch;
                    binding.touch = random_.one_in(2) ? TouchPart::contact : TouchPart::pressure;
                    if (binding.touch == TouchPart::pressure) binding.thresholds = {.press = 0.6, .release = 0.3};
                    return binding;
                default:
                    binding.buttons = some(random_.one_in(2) ? 1 : 1 + random_.below(3));
                    binding.in_order = binding.buttons.size() > 1 && random_.one_in(3);
                    return binding;
            }
        }
        binding.scale = 0.25 * static_cast<double>(1 + random_.below(6)) * (random_.one_in(4) ? -1 : 1);
        const bool is_axis = of == ActionKind::axis;
        switch (random_.below(5)) {
            case 0:
                binding.kind = random_.one_in(2) ? Kind::motion : Kind::wheel;
                binding.vertical = is_axis && random_.one_in(2);
                break;
            case 1:
                binding.kind = is_axis ? Kind::axis : Kind::stick;
                if (is_axis) binding.axis = random_.one_in(2) ? controls::PadPullRight : controls::PadStickLeft.x();
                if (!is_axis) binding.stick = controls::PadStickLeft;
                binding.dead_zone = random_.one_in(2) ? 0.25 : 0;
                if (is_axis || random_.one_in(2)) break;
                binding.kind = Kind::touch;
                binding.touch = TouchPart::position;
                break;
            default:
                binding.kind = is_axis ? Kind::pair : Kind::cross;
                binding.buttons = some(is_axis ? 2 : 4);
                return binding;
        }
        if (!is_axis) binding.invert_x = random_.one_in(4), binding.invert_y = random_.one_in(4);
        return binding;
    }
    Action action(std::string name, unsigned own_mode, std::optional<ActionKind> kind = std::nullopt) {
        Action action{.name = std::move(name)};
        action.kind = kind ? *kind : static_cast<ActionKind>(random_.below(5) < 3 ? 0 : 1 + random_.below(2));
        for (std::uint64_t count = random_.below(4); count > 0; --count)
            action.bindings.push_back(binding(action.kind));
        if (action.kind != ActionKind::button) {
            action.opposed = static_cast<WhenOpposed>(random_.below(3));
            if (random_.one_in(2)) {
                action.rise = span(39) + Duration{1}, action.fall = span(39) + Duration{1};
            } else if (random_.one_in(4)) {  // exact, since what has no ramp jumps at the very end of the other one
                (random_.one_in(2) ? action.rise : action.fall) = Duration{1 << random_.below(6)};
            }
            if (action.kind == ActionKind::vector && random_.one_in(3)) action.directions = random_.one_in(2) ? 4 : 8;
            return action;
        }
        action.repeat = {Duration{1 + static_cast<std::int64_t>(random_.below(20))},
                         Duration{1 + static_cast<std::int64_t>(random_.below(9))},
                         static_cast<std::uint32_t>(random_.below(3))};
        if (random_.one_in(2)) action.gesture = static_cast<Gesture>(random_.below(6));
        if (usual_time(action.gesture) != Duration{}) action.gesture_time = span(15) + Duration{1};
        if (action.gesture == Gesture::hold && random_.one_in(4)) action.min_interval = span(12);
        if (random_.one_in(4)) action.debounce = span(10);
        if (random_.one_in(4)) action.buffer = span(40);
        if (random_.one_in(4)) action.opens = mode_name(static_cast<unsigned>(random_.below(mode_count)));
        if (own_mode != 0 && random_.one_in(5)) action.closes = true;
        return action;
    }
    static std::string mode_name(unsigned number) { return "mode" + std::to_string(number); }
    Profile profile() {
        texts_ = random_.one_in(2);
        for (;;) {
            Profile profile;
            for (unsigned m = 0; m < mode_count; ++m) {
                Mode mode{.name = mode_name(m),
                          .covers = random_.one_in(3),
                          .pauses = random_.one_in(5),
                          .text = texts_ && random_.one_in(3)};
                for (unsigned a = 0; a < 4; ++a) mode.actions.push_back(action("action" + std::to_string(a), m));
                profile.modes.push_back(mode);
            }
            if (!profile.problem()) return profile;
        }
    }
    /// Some actions otherwise, or absent.
    Profile changed(const Profile& first, const Profile& now) {
        for (;;) {
            Profile profile = now;
            for (unsigned m = 0; m < mode_count; ++m) {
                std::vector<Action> actions;
                for (const Action& was : first.modes[m].actions) {
                    const auto found = std::find_if(now.modes[m].actions.begin(), now.modes[m].actions.end(),
                                                    [&](const Action& action) { return action.name == was.name; });
                    const bool is_there = found != now.modes[m].actions.end();
                    if (random_.one_in(8)) {
                        if (!is_there) actions.push_back(action(was.name, m, was.kind));
                    } else if (random_.one_in(3)) {
                        actions.push_back(action(was.name, m, was.kind));
                    } else if (is_there) {
                        actions.push_back(*found);
                    }
                }
                profile.modes[m].actions = actions;
                if (random_.one_in(4)) profile.modes[m].covers = !profile.modes[m].covers;
                if (texts_ && random_.one_in(6)) profile.modes[m].text = !profile.modes[m].text;
            }
            if (!profile.problem()) return profile;
        }
    }

private:
    Random& random_;
    bool texts_ = false;
};

/// What a program does that a seat's reader, or one of all devices, reads.
class Program {
public:
    explicit Program(std::uint64_t seed, bool is_loud) : random_{seed}, loud_{is_loud} {
        profiles_.push_back(make_.profile());
        reader_.emplace(profiles_.front());
        plain_.emplace(profiles_.front());
        seated_ = random_.one_in(4);
        post({.what = Post::What::connect, .device = 3, .kind = DeviceKind::gamepad});
        post({.what = Post::What::connect, .device = 4, .kind = DeviceKind::gamepad});
        post({.what = Post::What::connect,
              .device = 5,
              .kind = DeviceKind::keyboard,
              .marks_repeats = random_.one_in(2)});
        if (!seated_) return;
        for (const unsigned device : {1U, 2U, 3U, 4U, 5U})
            if (random_.one_in(2)) give(device, static_cast<unsigned>(random_.below(2)));
        is_mine_ = [this](unsigned device, Button) { return owned_.contains(device) && owned_.at(device) == 0; };
    }
    void run() {
        if (loud_) tell(profiles_.front());
        for (int frame = 0; frame < 40; ++frame) {
            SCOPED_TRACE("frame " + std::to_string(frame));
            if (loud_) std::cout << "---- frame " << frame << "\n";
            if (random_.one_in(12) && saved_.size() < 3) save();
            if (random_.one_in(14) && !saved_.empty()) restore();
            call();
            one_frame();
            if (testing::Test::HasFatalFailure()) return;
        }
    }

private:
    static void tell(const Profile& profile) {
        std::size_t first = 0;
        for (const Mode& mode : profile.modes) {
            std::cout << mode.name << (mode.covers ? " covers" : "") << (mode.pauses ? " pauses" : "")
                      << (mode.text ? " text" : "") << "\n";
            for (const Action& a : mode.actions) {
                std::cout << "  " << first + static_cast<std::size_t>(a.name.back() - '0') << " " << a.name << " "
                          << name_of(a.kind) << " " << name_of(a.gesture) << " time " << a.gesture_time.count()
                          << " interval " << a.min_interval.count() << " debounce " << a.debounce.count() << " buffer "
                          << a.buffer.count() << " opens " << a.opens << (a.closes ? " closes" : "") << " opposed "
                          << static_cast<int>(a.opposed) << " directions " << int{a.directions} << " rise "
                          << a.rise.count() << " fall " << a.fall.count() << "\n";
                for (const Binding& binding : a.bindings)
                    std::cout << "      " << binding_text(a.kind, binding) << "\n";
            }
            first += 4;
        }
    }
    static Time at(std::int64_t time) { return Time{Duration{time}}; }
    void say(const std::string& what) const {
        if (loud_) std::cout << what << "\n";
    }
    void give(unsigned device, unsigned seat) {
        owned_[device] = seat;
        seats_.give(DeviceId{device}, seat);
    }

    void post(const Post& post) {
        using What = Post::What;
        Inlet& desk = timeline_.desk();
        const Time time = at(post.time);
        const DeviceId device{post.device};
        if (loud_) {
            static const char* const names[] = {"button",     "system_repeat", "blur", "focus", "connect",
                                                "disconnect", "stick",         "pull", "shape", "move",
                                                "wheel",      "contact",       "text"};
            std::cout << "  " << post.time << " " << names[static_cast<int>(post.what)] << " on " << post.device << " "
                      << name_of(post.button) << (post.down ? " down " : " ") << post.x << "," << post.y << "\n";
        }
        switch (post.what) {
            case What::button: desk.button(device, post.button, post.down, time); break;
            case What::system_repeat: desk.system_repeat(device, post.button, time); break;
            case What::blur: desk.lose_focus(time); break;
            case What::focus: desk.gain_focus(post.set, time); break;
            case What::connect:
                desk.connect(device, {.kind = post.kind, .name = "x", .marks_repeats = post.marks_repeats}, time);
                break;
            case What::disconnect: desk.disconnect(device, time); break;
            case What::stick: desk.stick(device, controls::PadStickLeft, post.x, post.y, time); break;
            case What::pull: desk.axis(device, controls::PadPullRight, post.x, time); break;
            case What::shaping: desk.set_shaping(device, post.shaping, time); break;
            case What::motion: desk.motion(device, post.x, post.y, time); break;
            case What::wheel: desk.wheel(device, post.x, post.y, time); break;
            case What::contact:
                desk.contact(device, post.contact, post.phase, post.x, post.y, post.pressure, time);
                break;
            case What::text: {
                Event text = Event::composed(time, post.text_phase, post.text);
                text.device = device, text.control = post.button;
                desk.post(text);
                break;
            }
        }
        input_.post(post);
    }

    double part() { return static_cast<double>(random_.below(9)) / 8; }
    void event(std::int64_t time) {
        using What = Post::What;
        Post next{.time = time};
        const std::uint64_t kind = random_.below(100);
        const auto pad = static_cast<unsigned>(3 + random_.below(2));
        if (kind < 45) {
            next.what = What::button;
            next.device = random_.one_in(3) ? 5 : 1;
            next.button = keyboard_keys[random_.below(std::size(keyboard_keys))];
            if (random_.one_in(6)) next.device = pad, next.button = pad_buttons[random_.below(2)];
            if (random_.one_in(10)) next.device = 2, next.button = controls::MouseLeft;
            bool& down = down_[{next.device, next.button.number}];
            down = random_.one_in(10) ? down : !down;
            next.down = down;
        } else if (kind < 49) {
            next.what = What::system_repeat, next.device = random_.one_in(2) ? 5 : 1;
            next.button = keyboard_keys[random_.below(std::size(keyboard_keys))];
        } else if (kind < 52) {
            next.what = random_.one_in(2) ? What::blur : What::focus;
            for (const Button key : keyboard_keys) next.set.set(key, random_.one_in(5));
            if (next.what == What::focus) down_.clear();
            if (next.what == What::focus) next.set.for_each([&](Button key) { down_[{1, key.number}] = true; });
        } else if (kind < 55) {
            next.what = random_.one_in(2) ? What::disconnect : What::connect;
            next.device = static_cast<unsigned>(3 + random_.below(3));
            next.kind = next.device == 5 ? DeviceKind::keyboard : DeviceKind::gamepad;
            next.marks_repeats = random_.one_in(2);
        } else if (kind < 65) {
            if (stick_times_[pad] == time) return;  // axes of one instant are the core's own business
            stick_times_[pad] = time;
            next.what = What::stick, next.device = pad;
            next.x = part() * (random_.one_in(2) ? 1 : -1), next.y = part() * (random_.one_in(2) ? 1 : -1);
        } else if (kind < 72) {
            if (pull_times_[pad] == time) return;
            pull_times_[pad] = time;
            next.what = What::pull, next.device = pad, next.x = part();
        } else if (kind < 75) {
            if (stick_times_[pad] == time || pull_times_[pad] == time) return;
            stick_times_[pad] = pull_times_[pad] = time;
            next.what = What::shaping, next.device = pad;
            next.shaping.sticks[0].response.dead_zone = 0.1 * static_cast<double>(random_.below(4));
            next.shaping.sticks[0].response.curve = 0.25 * static_cast<double>(random_.below(4));
            next.shaping.pulls[1].response.dead_zone = 0.1 * static_cast<double>(random_.below(4));
            next.shaping.thresholds.press = 0.5 + 0.1 * static_cast<double>(random_.below(4));
        } else if (kind < 77 && random_.one_in(2)) {
            next.what = What::text;
            next.text_phase = random_.one_in(3) ? static_cast<TextPhase>(random_.below(5)) : TextPhase::typed;
            next.text = std::to_string(++text_count_);
            if (random_.one_in(2)) next.button = keyboard_keys[random_.below(std::size(keyboard_keys))];
            if (next.button.number >= first_either_side) next.button = {};
            if (random_.one_in(3)) next.device = random_.one_in(2) ? 5 : 1;
        } else if (kind < 79) {
            next.what = What::contact, next.device = pad, next.contact = static_cast<std::uint32_t>(random_.below(2));
            next.phase = static_cast<ContactPhase>(random_.below(3));
            next.x = 2 * part() - 1, next.y = 2 * part() - 1, next.pressure = part();
            if (next.phase == ContactPhase::begin && std::exchange(touch_time_, time) == time) return;
        } else if (kind < 85) {
            next.what = What::motion, next.device = 2;
            next.x = static_cast<double>(random_.below(7)) - 3, next.y = static_cast<double>(random_.below(7)) - 3;
        } else if (kind < 94) {
            next.what = What::wheel, next.device = 2;
            (random_.one_in(3) ? next.x : next.y) = static_cast<double>(random_.below(5)) - 2;
        } else {
            ButtonSet on;
            on.set(controls::CapsLock, random_.one_in(2)), on.set(controls::NumLock, random_.one_in(2));
            say("  " + std::to_string(time) + " locks " + (on.contains(controls::CapsLock) ? "caps " : "") +
                (on.contains(controls::NumLock) ? "num" : ""));
            timeline_.desk().locks(on, at(time));
            input_.post_locks(time, on);
            return;
        }
        post(next);
    }

    void call() {
        if (random_.one_in(3)) {
            const auto mode = static_cast<unsigned>(random_.below(mode_count));
            const ModeHandle handle{static_cast<std::uint8_t>(mode)};
            if (plain_->is_open(mode)) {
                say("close mode" + std::to_string(mode));
                ASSERT_EQ(plain_->close(mode), reader_->close(handle));
            } else {
                say("open mode" + std::to_string(mode));
                ASSERT_EQ(plain_->open(mode), reader_->open(handle));
            }
        }
        if (random_.one_in(8)) {
            if (!claims_.empty() && random_.one_in(2)) {
                const std::size_t which = random_.below(claims_.size());
                say("end claim " + std::to_string(claims_[which]));
                reader_->end_claim(ClaimId{static_cast<std::uint8_t>(claims_[which])});
                plain_->end_claim(claims_[which]);
                claims_.erase(claims_.begin() + static_cast<std::ptrdiff_t>(which));
            } else if (claims_.size() < 3) {
                Claim claim{.everything = random_.one_in(4),
                            .axes = random_.one_in(3),
                            .motion = random_.one_in(3),
                            .wheel = random_.one_in(3)};
                for (const Button button : bindable) claim.buttons.set(button, random_.one_in(3));
                if (random_.one_in(4)) claim = {.device = DeviceId{1 + static_cast<unsigned>(random_.below(5))}};
                claims_.push_back(plain_->claim(claim));
                say("claim " + std::to_string(claims_.back()) + (claim.everything ? " everything" : "") +
                    (claim.axes ? " axes" : "") + (claim.motion ? " motion" : "") + (claim.wheel ? " wheel" : "") +
                    " device " + std::to_string(static_cast<unsigned>(claim.device)));
                ASSERT_EQ(static_cast<int>(reader_->claim(claim).value()), claims_.back());
            }
        }
        if (random_.one_in(15)) {
            profiles_.push_back(make_.changed(profiles_.front(), profiles_.back()));
            say("rebind");
            if (loud_) tell(profiles_.back());
            ASSERT_TRUE(reader_->rebind(profiles_.back()));
            plain_->rebind(profiles_.back());
            has_rebound_ = true;
        }
        if (random_.one_in(6)) inject();
        if (seated_ && random_.one_in(10)) {
            const unsigned device = 1 + static_cast<unsigned>(random_.below(5));
            const auto seat = static_cast<unsigned>(random_.below(2));
            say("give " + std::to_string(device) + " to " + std::to_string(seat));
            give(device, seat);
        }
    }

    void inject() {
        const std::size_t action = random_.below(4 * mode_count);
        const std::int64_t time = now_ + static_cast<std::int64_t>(random_.below(40)) - 5;
        const Vector2 value{part() * 1.5 - 0.5, part() - 0.5};
        const bool down = random_.one_in(2);
        const auto number = static_cast<std::uint16_t>(action);
        say("inject " + std::to_string(action) + " at " + std::to_string(time) + (down ? " down" : " up"));
        bool done = false;
        switch (profiles_.front().modes[action / 4].actions[action % 4].kind) {
            case ActionKind::button: done = reader_->inject(ButtonAction{number}, down, at(time)); break;
            case ActionKind::axis:
                done = reader_->inject(AxisAction{number}, value.x, at(time));
                if (done) plain_->inject({time, action, down, {value.x, 0}});
                return;
            case ActionKind::vector: done = reader_->inject(VectorAction{number}, value, at(time)); break;
        }
        if (done) plain_->inject({time, action, down, value});
    }

    void one_frame() {
        std::int64_t begin = now_, gap_from = now_;
        Tick::Gap gap = Tick::Gap::none;
        if (random_.one_in(8)) {
            gap = random_.one_in(2) ? Tick::Gap::paused : Tick::Gap::stalled;
            gap_from = now_ + static_cast<std::int64_t>(random_.below(8));
            begin = gap_from + 1 + static_cast<std::int64_t>(random_.below(30));
        }
        const std::int64_t end = begin + static_cast<std::int64_t>(random_.below(30));
        const bool is_slow = random_.one_in(2);
        for (std::uint64_t events = random_.below(is_slow ? 7 : 12); events > 0; --events) {
            posted_ += static_cast<std::int64_t>(random_.below(is_slow ? 8 : 3));
            if (gap != Tick::Gap::none) posted_ = std::max(posted_, now_ + 1);
            if (posted_ > end + 5) break;
            event(posted_);
        }
        const Tick tick{at(gap_from), at(begin), at(end), gap};
        if (loud_)
            std::cout << "tick " << gap_from << " " << begin << " " << end << " gap " << static_cast<int>(gap) << "\n";
        const PlainFrame facts = input_.advance(tick);
        for (const Happening& h : facts.happened)
            if (loud_ && h.what == Happening::What::edge)
                std::cout << "    " << h.time << " edge on " << h.device << " " << name_of(h.button) << " "
                          << name_of(h.kind) << "\n";
        const Frame& frame = sampler_.advance(tick);
        for (const Edge e : frame.all_edges())
            if (loud_)
                std::cout << "    core: " << nanoseconds(e.time) << " edge on " << static_cast<unsigned>(e.device)
                          << " " << name_of(e.button) << " " << name_of(e.kind) << "\n";
        now_ = end;
        if (seated_) seats_.read(frame);
        if (random_.one_in(20)) return;  // left out
        for (unsigned times = random_.one_in(20) ? 2 : 1; times > 0; --times) {
            plain_->read(facts, is_mine_);
            if (seated_)
                reader_->read(frame, seats_, 0);
            else
                reader_->read(frame);
            compare();
            if (testing::Test::HasFatalFailure()) return;
        }
    }

    void compare() {
        std::vector<PlainReader::Edge> edges;
        reader_->for_each_edge([&](const ActionEdge& e) {
            edges.push_back({nanoseconds(e.time), e.action.number, e.kind, e.of_adopted});
        });
        ASSERT_EQ(edges, plain_->edges());
        std::vector<PlainReader::Change> changes;
        for (std::size_t i = 0; i < reader_->mode_change_count(); ++i) {
            const ModeChange change = reader_->mode_change(i);
            changes.push_back({nanoseconds(change.time), change.by.number, change.mode.number, change.opened});
        }
        for (const PlainReader::Change& change : changes)
            if (loud_) std::cout << "    " << testing::PrintToString(change) << "\n";
        ASSERT_EQ(changes, plain_->changes());
        std::vector<std::string> texts, plain_texts = plain_->texts();
        const auto add = [&](const std::string& whose, const TextReading& reading) {
            for (const TextPiece& piece : reading)
                texts.push_back(whose + " " + std::to_string(nanoseconds(piece.time)) + " " +
                                std::string{name_of(piece.phase)} + " " + std::string{piece.text});
        };
        for (unsigned m = 0; m < mode_count; ++m)
            add("mode " + std::to_string(m), reader_->text_of(ModeHandle{static_cast<std::uint8_t>(m)}));
        for (unsigned i = 0; i < claim_capacity; ++i)
            add("claim " + std::to_string(i), reader_->text_of(ClaimId{static_cast<std::uint8_t>(i)}));
        add("nobody", reader_->text());
        std::sort(texts.begin(), texts.end());
        std::sort(plain_texts.begin(), plain_texts.end());
        ASSERT_EQ(texts, plain_texts);
        ASSERT_EQ(reader_->pauses(), plain_->pauses());
        for (unsigned m = 0; m < mode_count; ++m) {
            const ModeHandle mode{static_cast<std::uint8_t>(m)};
            ASSERT_EQ(reader_->is_open(mode), plain_->is_open(m));
            ASSERT_EQ(reader_->is_visible(mode), plain_->is_visible(m));
        }
        for (const Button button : bindable) {
            const ButtonOwner owner = reader_->owner_of(button), expected = plain_->owner_of(button);
            ASSERT_EQ(owner.kind, expected.kind) << name_of(button);
            ASSERT_EQ(owner.mode.number, expected.mode.number) << name_of(button);
            for (const int claim : claims_)
                ASSERT_EQ(reader_->has_press(ClaimId{static_cast<std::uint8_t>(claim)}, button),
                          plain_->has_press(claim, button))
                    << name_of(button) << ", claim " << claim;
        }
        for (std::size_t i = 0; i < 4 * mode_count; ++i) {
            compare(i, profiles_.front().modes[i / 4].actions[i % 4].kind);
            if (testing::Test::HasFatalFailure()) return;
        }
    }

    void compare(std::size_t number, ActionKind kind) {
        SCOPED_TRACE("action " + std::to_string(number));
        const auto short_number = static_cast<std::uint16_t>(number);
        if (kind == ActionKind::button) {
            const ButtonAction action{short_number};
            const ButtonFigures f = (*reader_)[action].figures();
            const PlainReader::Figures expected = plain_->figures(number);
            ASSERT_EQ((PlainReader::Figures{f.press_count(), f.release_count(), f.adopt_count(), f.cancel_count(),
                                            static_cast<unsigned>(f.repeat_count()), f.system_repeat_count(),
                                            f.held_for().count(), f.down_span().count(), f.was_down(), f.down(),
                                            f.released()}),
                      expected);
            const ActionReading reading = (*reader_)[action];
            ASSERT_EQ(reading.down(), expected.down);
            ASSERT_EQ(reading.was_down(), expected.was_down);
            ASSERT_EQ(reading.pressed(), expected.press != 0);
            ASSERT_EQ(reading.released(), expected.released);
            ASSERT_EQ(reading.ended(), expected.release + expected.cancel != 0);
            const Mode& mode = profiles_.back().modes[number / 4];
            if (mode.text && !reader_->is_at_rest()) {
                const auto steps = reader_->typing(ModeHandle{static_cast<std::uint8_t>(number / 4)});
                ASSERT_EQ(std::count_if(steps.begin(), steps.end(),
                                        [&](const TypingStep& step) { return step.action.number == number; }),
                          static_cast<std::int64_t>(expected.press + expected.repeat));
                ASSERT_TRUE(std::is_sorted(steps.begin(), steps.end(),
                                           [](const auto& a, const auto& b) { return a.time < b.time; }));
            }
            if (!random_.one_in(4)) return;
            ASSERT_EQ(reader_->consume_press(action), plain_->consume_press(number));
            return;
        }
        const PlainReader::Motion& expected = plain_->motion(number);
        if (loud_)
            std::cout << "    axis or vector " << number << ": " << expected.before.x << "," << expected.before.y
                      << " to " << expected.value.x << "," << expected.value.y << "\n";
        if (kind == ActionKind::axis) {
            const AxisActionReading is = (*reader_)[AxisAction{short_number}];
            near({is.value, 0}, expected.value, "value");
            near({is.before, 0}, expected.before, "before");
            near({is.integral * 1e9, 0}, {expected.integral.x * 1e9, 0}, "integral");
            near({is.relative, 0}, {expected.relative.x, 0}, "relative");
            return;
        }
        const VectorActionReading is = (*reader_)[VectorAction{short_number}];
        near(is.value, expected.value, "value");
        near(is.before, expected.before, "before");
        near({is.integral.x * 1e9, is.integral.y * 1e9}, {expected.integral.x * 1e9, expected.integral.y * 1e9},
             "integral");
        near(is.relative, expected.relative, "relative");
        near(is.facing, expected.facing, "facing");
    }
    static void near(Vector2 is, Vector2 expected, const char* what) {
        ASSERT_NEAR(is.x, expected.x, 1e-6) << what;
        ASSERT_NEAR(is.y, expected.y, 1e-6) << what;
    }

    /// All of one moment; a rebound profile goes on only from where it was rebound.
    struct Saved {
        Sampler::State sampler;
        ActionReader::State reader;
        Seats seats;
        PlainReader plain;
        PlainInput input;
        std::map<unsigned, unsigned> owned;
        std::vector<int> claims;
        std::int64_t now, posted;
        std::size_t profiles;
    };
    void save() {
        say("save");
        saved_.push_back({sampler_.save(), reader_->save(), seats_, *plain_, input_, owned_, claims_, now_, posted_,
                          profiles_.size()});
    }
    // The timeline goes on with events of later; but none is there that the saved moment has not seen.
    void restore() {
        const Saved saved = saved_.back();
        saved_.pop_back();
        if (saved.profiles != profiles_.size()) return;
        say("restore");
        ASSERT_TRUE(sampler_.restore(saved.sampler));
        ASSERT_TRUE(reader_->restore(saved.reader));
        PlainInput input = saved.input;
        input.go_on_with(input_);
        input_ = input;
        plain_.emplace(saved.plain);
        seats_ = saved.seats;
        owned_ = saved.owned;
        claims_ = saved.claims;
        now_ = saved.now;
    }

    Random random_;
    bool loud_, seated_ = false, has_rebound_ = false;
    Maker make_{random_};
    std::deque<Profile> profiles_;
    Timeline timeline_;
    Sampler sampler_{timeline_, {.start = Time{}}};
    Seats seats_{2};
    std::map<unsigned, unsigned> owned_;
    PlainReader::Filter is_mine_;
    PlainInput input_;
    std::optional<ActionReader> reader_;
    std::optional<PlainReader> plain_;
    std::vector<int> claims_;
    std::vector<Saved> saved_;
    std::map<std::pair<unsigned, std::uint16_t>, bool> down_;
    std::map<unsigned, std::int64_t> stick_times_, pull_times_;
    std::int64_t now_ = 0, posted_ = 0, touch_time_ = -1;
    unsigned text_count_ = 0;
};

void run(std::uint64_t seed, bool is_loud) {
    SCOPED_TRACE("seed " + std::to_string(seed) + "; replay: CURSORUM_TEST_SEED=" + std::to_string(seed));
    Program{seed, is_loud}.run();
}

TEST(ActionStreams, AgreeWithAPlainSecondImplementation) {
    if (const char* seed = std::getenv("CURSORUM_TEST_SEED")) return run(std::strtoull(seed, nullptr, 10), true);
    const char* const programs = std::getenv("CURSORUM_TEST_PROGRAMS");
    const std::uint64_t count = programs ? std::strtoull(programs, nullptr, 10) : usual_count(5000);
    for (std::uint64_t seed = 1; seed <= count; ++seed) {
        run(seed, false);
        if (HasFatalFailure()) return;
    }
}

}  // namespace
