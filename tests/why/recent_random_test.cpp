// Random games, kept and replayed; and what verdicts say of them.
#include "cursorum/why/recent_input.hpp"

#include <gtest/gtest.h>

#include <cstdlib>
#include <map>
#include <sstream>
#include <string>
#include <utility>
#include <vector>

#include "core/random_events.hpp"
#include "why/recent_run.hpp"

namespace {

using namespace cursorum;
using test::everything;
using test::keyboard;
using test::keys;
using test::mouse;
using test::ms;
using test::other_keyboard;
using test::pad;
using test::Random;
using test::replayed;
using test::shown;

/// As many as CURSORUM_TEST_PROGRAMS says, if it is set.
std::uint64_t games(std::uint64_t usual) {
    const char* const given = std::getenv("CURSORUM_TEST_PROGRAMS");
    return given ? std::strtoull(given, nullptr, 10) : test::usual_count(usual);
}

/// What verdicts say that each action did, and what they say of each press.
class Tally final : public VerdictSink {
public:
    void take(const Verdict& verdict) override {
        if (verdict.rule == Rule::fired) ++fired[verdict.action];
        buffered[verdict.action] += verdict.rule == Rule::taken_from_buffer || verdict.rule == Rule::buffer_expired;
        taken += verdict.rule == Rule::taken_from_buffer;
        if (verdict.rule == Rule::toggled_off) ++toggled_off[verdict.action];
        // Both Shift keys of another seat may go down at one instant: two presses, which are not merged.
        const bool may_come_twice = verdict.rule == Rule::other_seat && verdict.button.number >= first_either_side;
        if (verdict.button && verdict.rule != Rule::adopted && !may_come_twice)
            ++of_press[{nanoseconds(verdict.time), verdict.button.number}][verdict.binding];
        ++rules[static_cast<unsigned>(verdict.rule)];
    }
    using Press = std::pair<std::int64_t, std::uint16_t>;
    std::map<std::uint16_t, unsigned> fired, toggled_off, buffered;  // by action
    unsigned taken = 0;
    std::map<Press, std::map<std::uint16_t, unsigned>> of_press;
    std::array<unsigned, rule_count> rules{};
};

/// How many bindings of the profile name the button; 1 if none does, for the verdict that says so.
unsigned binding_count(const Profile& profile, Button button) {
    unsigned count = 0;
    bool has_key = false;
    for (const Mode& mode : profile.modes)
        for (const Action& action : mode.actions)
            for (const Binding& binding : action.bindings)
                for (const Button its :
                     binding.kind == Binding::Kind::value ? std::vector<Button>{} : binding.buttons) {
                    count += its == button;
                    has_key = has_key || physical_buttons(its).contains(button);
                }
    return count != 0 || has_key || button.number >= first_either_side ? count : 1;
}

/// A game with random input, pauses, stalls, focus and calls.
class RandomGame {
public:
    explicit RandomGame(std::uint64_t seed)
        : random_{seed},
          pads_{static_cast<unsigned>(seed % 2)},
          is_by_seat_{seed % 4 == 3},
          seats_come_and_go_{seed % 16 == 15},
          profile{
              test::profile_of(everything + "[mode.crane.action.pick]\nkind = \"button\"\nbind = [\"MouseLeft\"]\n")},
          reader{profile},
          recent{timeline, sampler, reader, {.length = Duration{400 * ms}, .frames = 1024, .every_key = true}} {
        Inlet& desk = timeline.desk();
        desk.connect(keyboard, {.kind = DeviceKind::keyboard, .name = "k", .marks_repeats = true}, time());
        desk.connect(other_keyboard, {.kind = DeviceKind::keyboard, .name = "o"}, time());
        desk.connect(mouse, {.kind = DeviceKind::mouse, .name = "m"}, time());
        pads().connect(pad, {.kind = DeviceKind::gamepad, .name = "p"}, time());
        reader.open({0});
        reader.set_verdict_sink(&tally);
        seats_.give(keyboard, 1);
    }

    void play(int frames) {
        for (int i = 0; i < frames; ++i) {
            if (random_.one_in(12)) call();
            if (seats_come_and_go_ && random_.one_in(20)) is_by_seat_ = !is_by_seat_;
            for (auto n = random_.below(5); n > 0; --n) post();
            cut();
            seats_.read(sampler.frame());
            if (is_by_seat_)
                reader.read(sampler.frame(), seats_, 1);
            else
                reader.read(sampler.frame());
            recent.note();
            add_up();
            if (random_.one_in(15)) call();
            shown_.push_back(shown(sampler.frame(), reader, profile));
        }
    }

    std::vector<std::string> last(std::size_t count) const {
        return {shown_.end() - static_cast<std::ptrdiff_t>(count), shown_.end()};
    }
    std::string saved() const {
        std::ostringstream out;
        EXPECT_TRUE(recent.write(out));
        return out.str();
    }

    unsigned presses = 0, judged = 0;  // of buttons; those that have all their verdicts
    unsigned taken = 0;                // from buffers
    Tally tally;

private:
    // What fired, by verdicts and by the reader; and no press has more than one verdict for a binding.
    void add_up() {
        std::uint16_t number = 0;
        for (const Mode& mode : profile.modes)
            for (const Action& action : mode.actions) {
                if (action.kind == ActionKind::button) {
                    const ButtonFigures figures = reader[ButtonAction{number}].figures();
                    unsigned fired = tally.fired[number];
                    if (action.buffer != Duration{}) {  // those of all frames until now, but the one that may wait
                        const unsigned all = pressed_[number] += figures.press_count(), ended = tally.buffered[number];
                        EXPECT_TRUE(fired == 0 && all >= ended && all <= ended + 1) << all << " and " << ended;
                        fired = figures.press_count();
                    }
                    EXPECT_EQ(fired, figures.press_count()) << action.name << " of " << mode.name;
                    if (action.gesture == Gesture::toggle) {
                        EXPECT_EQ(tally.toggled_off[number], figures.release_count()) << action.name;
                    }
                }
                ++number;
            }
        tally.fired.clear();
        tally.toggled_off.clear();
        ButtonSet pressed;
        for (std::uint16_t button = 1; button < button_capacity; ++button)
            if (sampler.frame()[Button{button}].press_count() != 0) pressed.insert({button});
        pressed.for_each([&](Button button) { presses += sampler.frame()[button].press_count(); });
    }

public:
    /// Call it at the end: what waits has no verdict yet.
    void judge() {
        for (const auto& [press, bindings] : tally.of_press) {
            unsigned count = 0;
            for (const auto& [binding, verdicts] : bindings) {
                EXPECT_EQ(verdicts, 1U) << name_of(Button{press.second}) << " at " << press.first;
                count += verdicts;
            }
            const unsigned wanted = binding_count(profile, {press.second});
            EXPECT_LE(count, wanted) << name_of(Button{press.second}) << " at " << press.first;
            judged += count == wanted;
        }
    }

private:
    Inlet& pads() { return timeline.inlet(pads_); }
    Time time() { return Time{Duration{now_ += 1 + static_cast<std::int64_t>(random_.below(4 * ms))}}; }
    double value() { return (static_cast<double>(random_.below(201)) - 100) / 100; }

    void post() {
        Inlet& desk = timeline.desk();
        const Button key = keys[random_.below(std::size(keys))];
        const DeviceId on = random_.one_in(3) ? other_keyboard : keyboard;
        switch (random_.below(27)) {
            case 0: pads().stick(pad, controls::PadStickLeft, value(), value(), time()); break;
            case 1: pads().stick(pad, controls::PadStickRight, value(), value(), time()); break;
            case 2: pads().axis(pad, controls::PadPullRight, std::abs(value()), time()); break;
            case 3: pads().axis(pad, controls::PadPullLeft, std::abs(value()), time()); break;
            case 4: desk.motion(mouse, value() * 8, value() * 8, time()); break;
            case 5: desk.wheel(mouse, 0, value() * 2, time()); break;
            case 6: {
                const bool begins = !touches_ || random_.one_in(2);
                pads().contact(pad, 5,
                               !touches_ ? ContactPhase::begin
                               : begins  ? ContactPhase::move
                                         : ContactPhase::end,
                               value(), value(), std::abs(value()), time());
                touches_ = begins;
                break;
            }
            case 7:
                if (random_.one_in(3)) focus();
                break;
            case 8:
                if (random_.one_in(3)) desk.interrupt(ButtonSet{}, time());
                break;
            case 9: desk.locks(random_.one_in(2) ? ButtonSet{controls::CapsLock} : ButtonSet{}, time()); break;
            case 10: {
                ButtonSet down;
                for (const Button it : keys)
                    if (random_.one_in(5)) down.insert(it);
                desk.state(on, down, time(), random_.one_in(2));
                break;
            }
            case 11: desk.post(Event::button(time(), keyboard, key, true, true)); break;
            case 12: desk.moved_to(mouse, WindowPoint{value() * 100, value() * 100}, time()); break;
            case 13:
                if (random_.one_in(4)) plug();
                break;
            case 14: {
                DeviceShaping shaping;
                shaping.sticks[0].response.dead_zone = std::abs(value()) / 2;
                shaping.sticks[1].directions = random_.one_in(2) ? StickDirections::eight : StickDirections::four;
                shaping.pulls[0].response.curve = std::abs(value());
                pads().set_shaping(pad, shaping, time());
                break;
            }
            case 15: {  // a polled pad
                AxisValues axes;
                axes.set(controls::PadStickLeftX, value());
                axes.set(controls::PadPullLeft, std::abs(value()));
                pads().state(pad, random_.one_in(2) ? ButtonSet{controls::PadSouth} : ButtonSet{}, axes, time(), false);
                break;
            }
            case 16: desk.button(mouse, controls::MouseLeft, !random_.one_in(2), time()); break;
            default: desk.button(on, key, !random_.one_in(2), time());
        }
    }
    void focus() {
        has_focus_ = !has_focus_;
        touches_ = false;
        if (!has_focus_)
            timeline.desk().lose_focus(time());
        else
            timeline.desk().gain_focus(ButtonSet{keys[random_.below(std::size(keys))]}, time());
    }

    void plug() {
        is_plugged_ = !is_plugged_;
        touches_ = false;
        if (is_plugged_)
            pads().connect(pad, {.kind = DeviceKind::gamepad, .name = "p"}, time());
        else
            pads().disconnect(pad, time());
    }

    void cut() {
        const Time before = sampler.frame().end(), end = time();
        if (random_.one_in(20)) {  // what comes in the gap, and after it
            const Time from{(before.time_since_epoch() + end.time_since_epoch()) / 2}, gap = time();
            for (auto n = random_.below(3); n > 0; --n) post();
            const Time begin = time();
            for (auto n = random_.below(3); n > 0; --n) post();
            const Tick::Gap kind = random_.one_in(2) ? Tick::Gap::paused : Tick::Gap::stalled;
            (void)gap;
            sampler.advance(Tick{std::max(from, before), begin, time(), kind, 0.1});
            return;
        }
        sampler.advance(end);
    }

    void call() {
        if (is_by_seat_ && random_.one_in(3)) {
            const DeviceId devices[] = {keyboard, other_keyboard, mouse, pad};
            const DeviceId device = devices[random_.below(4)];
            switch (random_.below(4)) {
                case 0: seats_.unassign(device); break;
                case 1: seats_.give(device, 0); break;
                case 2: seats_.give(device, 1, random_.one_in(2) ? left_half() : right_half()); break;
                default: seats_.give(device, 1);
            }
        } else if (random_.one_in(4)) {
            taken += reader.consume_press(*profile.find_button(random_.one_in(3) ? "tap" : "lock"));
            EXPECT_EQ(tally.taken, taken);
        } else if (random_.one_in(4)) {
            const ButtonAction pick = *profile.find_button("pick");
            const ClickArea area{{-50, -50, 60 + value() * 40, 90}, random_.one_in(2)};
            EXPECT_TRUE(reader.set_area(pick, random_.one_in(3) ? std::nullopt : std::optional{area}));
        } else if (random_.one_in(2)) {
            const ModeHandle mode{static_cast<std::uint8_t>(random_.below(2))};
            reader.is_open(mode) ? reader.close(mode) : reader.open(mode);
        } else if (claim_) {
            reader.end_claim(*claim_);
            claim_.reset();
        } else {
            Claim claim;
            if (random_.one_in(3)) claim.everything = true;
            claim.buttons = {controls::KeyW, controls::Space};
            claim.axes = random_.one_in(3);
            claim_ = reader.claim(claim);
        }
    }

    Random random_;
    unsigned pads_;    // the inlet of the pad
    bool is_by_seat_;  // the reader reads the second of two seats
    bool seats_come_and_go_;
    Seats seats_{2};
    std::int64_t now_ = 1000 * ms;
    bool has_focus_ = true, touches_ = false, is_plugged_ = true;
    std::optional<ClaimId> claim_;
    std::vector<std::string> shown_;
    std::map<std::uint16_t, unsigned> pressed_;  // by action, if it has a buffer

public:
    Profile profile;
    Timeline timeline{{.inlets = 2, .devices = 8, .ledger = 1U << 16, .desk_devices = false}};
    Sampler sampler{timeline, {.start = Time{Duration{999 * ms}}}};
    ActionReader reader;
    RecentInput recent;
};

TEST(RecentInput, ReplaysToTheSameFramesAndActions) {
    const char* const given = std::getenv("CURSORUM_TEST_SEED");
    const std::uint64_t first = given ? std::strtoull(given, nullptr, 10) : 1, last = given ? first : games(600);
    for (std::uint64_t seed = first; seed <= last && !HasFailure(); ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed) + "; replay: CURSORUM_TEST_SEED=" + std::to_string(seed));
        RandomGame game{seed};
        game.play(static_cast<int>(60 + seed % 50));
        const std::string recording = game.saved();
        const std::vector<std::string> frames = replayed(recording, game.profile), expected = game.last(frames.size());
        EXPECT_GE(frames.size(), 30U);
        for (std::size_t i = 0; i < frames.size(); ++i)
            ASSERT_EQ(frames[i], expected[i]) << "frame " << i + 1 << " of\n" << (given ? recording : "");
    }
}

TEST(RecentInput, VerdictsAddUpToWhatFired) {
    std::array<unsigned, rule_count> rules{};
    for (std::uint64_t seed = 1; seed <= games(800) && !HasFailure(); ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        RandomGame game{seed};
        game.play(150);
        game.judge();
        EXPECT_GE(game.judged + 20, game.tally.of_press.size()) << "few wait at the end";
        EXPECT_TRUE(game.presses >= game.tally.of_press.size() || seed % 4 == 3) << "merged over all devices";
        for (unsigned i = 0; i < rule_count; ++i) rules[i] += game.tally.rules[i];
    }
    rules[static_cast<unsigned>(Rule::not_up_since_bound)] = 1;     // no game binds anew
    for (unsigned i = 0; i < rule_count && games(800) >= 500; ++i)  // some are rare
        EXPECT_GT(rules[i], 0U) << name_of(static_cast<Rule>(i));
}

TEST(RecentInput, HasLessTimeWhenThereIsMoreInput) {
    RandomGame game{7};  // with 64 KB for each inlet
    game.play(3000);
    EXPECT_GE(game.recent.length(), Duration{400 * ms} / 2);
    const std::vector<std::string> frames = replayed(game.saved(), game.profile);
    EXPECT_EQ(frames, game.last(frames.size()));
}

}  // namespace
