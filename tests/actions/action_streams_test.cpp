// Random profiles and streams against a plain second implementation: OR, chords, opposites, modes and claims, at cuts
// of any length; ramped motion is checked on its own. A failure prints its seed; CURSORUM_TEST_SEED=N runs that one
// alone.

#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <map>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "core/random_events.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"

namespace {

using namespace cursorum;
using test::Random;

constexpr unsigned keys = 6;
Button key(std::uint64_t i) { return {static_cast<std::uint16_t>(controls::KeyA.number + i)}; }

Profile random_profile(Random& random) {
    Profile profile;
    for (unsigned m = 0; m < 3; ++m) {
        Mode mode{.name = "mode" + std::to_string(m), .covers = random.one_in(3), .actions = {}};
        for (unsigned a = 0; a < 3; ++a) {
            Action action{.name = "action" + std::to_string(a)};
            const std::uint64_t bindings = random.below(4);
            if (random.one_in(3)) {
                action.kind = ActionKind::axis;
                action.opposed = static_cast<WhenOpposed>(random.below(3));
            } else if (random.one_in(2)) {
                action.gesture = static_cast<Gesture>(random.below(5));
                const Duration time{1 + static_cast<std::int64_t>(random.below(15))};
                if (usual_time(action.gesture) != Duration{}) action.gesture_time = time;
                if (random.one_in(2)) action.min_interval = Duration{static_cast<std::int64_t>(random.below(12))};
            }
            for (std::uint64_t b = 0; b < bindings; ++b) {
                Binding binding;
                std::vector<Button> all;
                for (unsigned i = 0; i < keys; ++i) all.push_back(key(i));
                const std::size_t count = action.kind == ActionKind::axis ? 2
                                          : random.one_in(2)              ? 1
                                                                          : 1 + random.below(3);
                for (std::size_t i = 0; i < count; ++i) {
                    const std::size_t at = random.below(all.size());
                    binding.buttons.push_back(all[at]);
                    all.erase(all.begin() + static_cast<std::ptrdiff_t>(at));
                }
                if (action.kind == ActionKind::axis) {
                    binding.kind = Binding::Kind::pair;
                    binding.scale = 0.25 * static_cast<double>(1 + random.below(6));
                }
                action.bindings.push_back(binding);
            }
            mode.actions.push_back(action);
        }
        profile.modes.push_back(mode);
    }
    return profile;
}

/// What one chord is doing: down since when, and whether by a press.
struct Held {
    bool by_press = false;
    int order = 0;  // of going down, over all
};

/// The rules of DESIGN once more: everything is a map or a set, and everything is looked for again each time.
class Plain {
public:
    explicit Plain(const Profile& profile) : profile_{profile} {}

    std::vector<std::size_t> open;  // modes, the lowest first
    std::vector<std::pair<int, Claim>> claims;

    struct Change {
        std::int64_t time;
        EdgeKind kind;
    };
    /// What the bindings together did, all of it: a change, or a cut, or that the mode went out of sight.
    struct Past {
        enum class What { change, cut, hidden } what;
        Change change;
    };
    using Name = std::pair<std::size_t, std::size_t>;  // mode, action
    std::map<Name, std::vector<Change>> changes;       // of the frame
    std::map<Name, double> sums;                       // of the frame, value times nanoseconds
    std::map<Name, bool> was_down, is_on;

    void begin_frame(std::int64_t t0) {
        was_down = is_on;
        changes.clear();
        sums.clear();
        at_ = t0;
    }
    /// Each gesture is found in the whole past again; what was not reported before is this frame's.
    void end_frame(std::int64_t t1) {
        go_on(t1);
        for (std::size_t m = 0; m < profile_.modes.size(); ++m)
            for (std::size_t a = 0; a < profile_.modes[m].actions.size(); ++a) {
                const Name name{m, a};
                past_[name].push_back({Past::What::cut, {t1, EdgeKind::press}});
                const std::vector<Change> all = edges_of(profile_.modes[m].actions[a], past_[name]);
                changes[name].assign(all.begin() + static_cast<std::ptrdiff_t>(told_[name]), all.end());
                told_[name] = all.size();
                is_on[name] =
                    !all.empty() && (all.back().kind == EdgeKind::press || all.back().kind == EdgeKind::adopt);
            }
    }
    /// After `open` and `claims` changed.
    void rearrange(std::int64_t t0) {
        const std::set<std::size_t> before = std::exchange(seen_, seen_modes());
        std::set<unsigned> given;
        for (auto& [k, owner] : owners_) {
            if (owner == "gone") continue;
            if (owner.starts_with("press of claim")) {
                const bool there = std::any_of(claims.begin(), claims.end(), [&its = owner](const auto& c) {
                    return its == "press of claim " + std::to_string(c.first);
                });
                if (!there) owner = "gone";
                continue;
            }
            const std::string wanted = owner_of(key(k), false);
            if (owner.starts_with("mode")) {
                const bool seen = sees(owner) && !wanted.starts_with("claim");
                if (seen) continue;
                let_go(k, owner, EdgeKind::cancel, t0);
            }
            owner = wanted;
            if (wanted.starts_with("mode")) given.insert(k);
        }
        for (const unsigned k : given) get(k, owners_[k], EdgeKind::adopt, t0);
        for (const std::size_t m : before)
            for (std::size_t a = 0; !seen_.contains(m) && a < profile_.modes[m].actions.size(); ++a)
                past_[{m, a}].push_back({Past::What::hidden, {t0, EdgeKind::cancel}});
    }
    void press(unsigned k, std::int64_t time) {
        go_on(time);
        owners_[k] = owner_of(key(k), true);
        get(k, owners_[k], EdgeKind::press, time);
    }
    void release(unsigned k, std::int64_t time) {
        go_on(time);
        const std::string owner = owners_[k];
        let_go(k, owner, EdgeKind::release, time);
        owners_.erase(k);
    }
    void go_on(std::int64_t until) {
        for (std::size_t m = 0; m < profile_.modes.size(); ++m)
            for (std::size_t a = 0; a < profile_.modes[m].actions.size(); ++a)
                sums[{m, a}] += value({m, a}) * static_cast<double>(until - at_);
        at_ = until;
    }
    static std::vector<Change> edges_of(const Action& action, const std::vector<Past>& past) {
        std::vector<Change> edges;
        bool on = false, armed = false;
        std::int64_t since = 0;
        const std::int64_t time = action.gesture_time.count();
        const auto turn = [&](bool to, EdgeKind kind, std::int64_t at) {
            if (to != on) edges.push_back({at, kind});
            on = to;
        };
        for (const Past& item : past) {
            const auto [at, kind] = item.change;
            const bool is_cut = item.what == Past::What::cut;
            if (action.gesture == Gesture::long_press && armed && since + time <= at) {
                turn(true, EdgeKind::press, since + time);
                armed = false;
            }
            if (is_cut) continue;
            if (item.what == Past::What::hidden) {
                if (action.gesture != Gesture::hold || action.min_interval != Duration{}) {
                    turn(false, EdgeKind::cancel, at);
                    armed = false;
                }
                continue;
            }
            const bool press = kind == EdgeKind::press, ends = kind == EdgeKind::release || kind == EdgeKind::cancel;
            if (action.gesture == Gesture::toggle) {
                if (press) turn(!on, on ? EdgeKind::release : EdgeKind::press, at);
                continue;
            }
            if (ends) turn(false, kind, at);
            switch (action.gesture) {
                case Gesture::tap:
                    if (kind == EdgeKind::release && armed && at - since <= time) {
                        turn(true, EdgeKind::press, at);
                        turn(false, EdgeKind::release, at);
                    }
                    [[fallthrough]];
                case Gesture::long_press:
                    armed = press;
                    since = at;
                    break;
                case Gesture::double_tap:
                    if (kind == EdgeKind::cancel) armed = false;
                    if (press && armed && at - since <= time) {
                        armed = false;
                        turn(true, EdgeKind::press, at);
                    } else if (press) {
                        armed = true;
                        since = at;
                    }
                    break;
                default:
                    if (kind == EdgeKind::adopt) turn(true, kind, at);
                    if (!press || (armed && at - since < action.min_interval.count())) break;
                    armed = true;
                    since = at;
                    turn(true, EdgeKind::press, at);
            }
        }
        return edges;
    }
    std::set<std::size_t> seen_modes() const {
        std::set<std::size_t> seen;
        for (const std::size_t m : open)
            if (sees(mode_name(m))) seen.insert(m);
        return seen;
    }
    bool is_down(Name name) const {
        return std::any_of(held_.begin(), held_.end(), [&](const auto& h) { return h.first.first == name; });
    }
    double value(Name name) const {
        const Action& action = profile_.modes[name.first].actions[name.second];
        if (action.kind != ActionKind::axis) return 0;
        double best = 0;
        for (std::size_t b = 0; b < action.bindings.size(); ++b) {
            const auto minus = held_.find({name, {b, 0}}), plus = held_.find({name, {b, 1}});
            const bool has_minus = minus != held_.end(), has_plus = plus != held_.end();
            double own = has_plus - has_minus;
            if (has_minus && has_plus && action.opposed != WhenOpposed::neutral)
                own = (plus->second.order > minus->second.order) == (action.opposed == WhenOpposed::last) ? 1 : -1;
            own *= action.bindings[b].scale;
            if (own * own > best * best) best = own;
        }
        return std::clamp(best, -1.0, 1.0);
    }

private:
    // An action's chord or direction: which binding, which direction.
    using Switch = std::pair<Name, std::pair<std::size_t, std::size_t>>;

    static std::string mode_name(std::size_t m) { return "mode " + std::to_string(m); }
    bool sees(const std::string& owner) const {
        for (std::size_t i = open.size(); i-- > 0;) {
            if (owner == mode_name(open[i])) return true;
            if (profile_.modes[open[i]].covers) return false;
        }
        return false;
    }
    std::string owner_of(Button button, bool is_press) const {
        for (const auto& [id, claim] : claims)
            if (claim.has(button)) return (is_press ? "press of claim " : "claim ") + std::to_string(id);
        for (std::size_t i = open.size(); i-- > 0;) {
            if (!sees(mode_name(open[i]))) break;
            for (const Action& action : profile_.modes[open[i]].actions)
                for (const Binding& binding : action.bindings)
                    if (std::count(binding.buttons.begin(), binding.buttons.end(), button) != 0)
                        return mode_name(open[i]);
        }
        return "nobody";
    }
    static std::vector<Button> members(const Action& action, const Switch& s) {
        const Binding& binding = action.bindings[s.second.first];
        return action.kind == ActionKind::axis ? std::vector{binding.buttons[s.second.second]} : binding.buttons;
    }
    std::vector<std::pair<Switch, std::vector<Button>>> switches_of(unsigned k, const std::string& owner) const {
        std::vector<std::pair<Switch, std::vector<Button>>> found;
        for (std::size_t m = 0; m < profile_.modes.size(); ++m) {
            if (mode_name(m) != owner) continue;
            for (std::size_t a = 0; a < profile_.modes[m].actions.size(); ++a) {
                const Action& action = profile_.modes[m].actions[a];
                for (std::size_t b = 0; b < action.bindings.size(); ++b)
                    for (std::size_t d = 0; d < (action.kind == ActionKind::axis ? 2U : 1U); ++d) {
                        const Switch s{{m, a}, {b, d}};
                        const std::vector<Button> all = members(action, s);
                        if (std::count(all.begin(), all.end(), key(k)) != 0) found.push_back({s, all});
                    }
            }
        }
        return found;
    }
    void get(unsigned k, const std::string& owner, EdgeKind kind, std::int64_t time) {
        std::size_t longest = 0;
        std::vector<std::pair<Switch, std::vector<Button>>> complete;
        for (const auto& s : switches_of(k, owner)) {
            const bool whole = std::all_of(s.second.begin(), s.second.end(), [&](Button b) {
                const auto its = owners_.find(b.number - controls::KeyA.number);
                return its != owners_.end() && its->second == owner;
            });
            if (!whole || held_.contains(s.first)) continue;
            complete.push_back(s);
            longest = std::max(longest, s.second.size());
        }
        for (const auto& [s, all] : complete) {
            if (all.size() != longest) continue;
            const bool was = is_down(s.first);
            const bool by_press = std::any_of(held_.begin(), held_.end(), [&its = s](const auto& h) {
                return h.first.first == its.first && h.second.by_press;
            });
            if (was && !by_press && kind == EdgeKind::press)
                past_[s.first].push_back({Past::What::change, {time, EdgeKind::cancel}});
            if (!was || (!by_press && kind == EdgeKind::press))
                past_[s.first].push_back({Past::What::change, {time, kind}});
            held_[s] = {kind == EdgeKind::press, ++order_};
        }
    }
    void let_go(unsigned k, const std::string& owner, EdgeKind kind, std::int64_t time) {
        for (const auto& [s, all] : switches_of(k, owner))
            if (held_.erase(s) != 0 && !is_down(s.first)) past_[s.first].push_back({Past::What::change, {time, kind}});
    }

    const Profile& profile_;
    std::map<Name, std::vector<Past>> past_;
    std::map<Name, std::size_t> told_;
    std::set<std::size_t> seen_;
    std::map<unsigned, std::string> owners_;  // of the keys that are down
    std::map<Switch, Held> held_;
    int order_ = 0;
    std::int64_t at_ = 0;
};

struct Counts {
    unsigned press = 0, release = 0, adopt = 0, cancel = 0;
    std::int64_t span = 0;
    friend bool operator==(const Counts&, const Counts&) = default;
    friend std::ostream& operator<<(std::ostream& out, const Counts& c) {
        return out << c.press << " presses " << c.release << " releases " << c.adopt << " adopts " << c.cancel
                   << " cancels, down for " << c.span;
    }
};

void run(std::uint64_t seed) {
    SCOPED_TRACE("seed " + std::to_string(seed) + "; replay: CURSORUM_TEST_SEED=" + std::to_string(seed));
    Random random{seed};
    const Profile profile = random_profile(random);
    ASSERT_FALSE(profile.problem()) << *profile.problem();
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    ActionReader reader{profile};
    Plain plain{profile};
    std::array<bool, keys> down{};
    std::vector<std::pair<int, ClaimId>> claims;
    int next_claim = 0;
    std::int64_t now = 0;
    for (int frame = 0; frame < 60; ++frame) {
        const std::int64_t t0 = now, t1 = t0 + static_cast<std::int64_t>(random.below(30));
        plain.begin_frame(t0);
        if (random.one_in(3)) {
            const ModeHandle mode{static_cast<std::uint8_t>(random.below(3))};
            const auto at = std::find(plain.open.begin(), plain.open.end(), mode.number);
            if (at == plain.open.end()) {
                plain.open.push_back(mode.number);
                ASSERT_TRUE(reader.open(mode));
            } else {
                plain.open.erase(at);
                ASSERT_TRUE(reader.close(mode));
            }
        }
        if (random.one_in(6)) {
            if (!claims.empty() && random.one_in(2)) {
                const std::size_t which = random.below(claims.size());
                reader.end_claim(claims[which].second);
                std::erase_if(plain.claims, [&](const auto& c) { return c.first == claims[which].first; });
                claims.erase(claims.begin() + static_cast<std::ptrdiff_t>(which));
            } else if (claims.size() < 3) {
                Claim claim{.everything = random.one_in(3)};
                for (unsigned i = 0; i < keys; ++i) claim.buttons.set(key(i), random.one_in(2));
                claims.emplace_back(next_claim, reader.claim(claim).value());
                // The reader asks them in the order of their places.
                plain.claims.emplace_back(next_claim++, claim);
                std::sort(plain.claims.begin(), plain.claims.end(), [&](const auto& a, const auto& b) {
                    const auto place = [&](int id) {
                        return std::find_if(claims.begin(), claims.end(), [&](const auto& c) { return c.first == id; })
                            ->second;
                    };
                    return place(a.first) < place(b.first);
                });
            }
        }
        plain.rearrange(t0);
        std::int64_t time = t0;
        for (std::uint64_t events = random.below(6); events > 0; --events) {
            time += static_cast<std::int64_t>(random.below(8));
            if (time > t1) break;
            const auto k = static_cast<unsigned>(random.below(keys));
            down[k] = !down[k];
            timeline.desk().button(key(k), down[k], Time{Duration{time}});
            down[k] ? plain.press(k, time) : plain.release(k, time);
        }
        plain.end_frame(t1);
        reader.read(sampler.advance(Time{Duration{t1}}));
        now = t1;

        std::uint16_t number = 0;
        for (std::size_t m = 0; m < profile.modes.size(); ++m) {
            for (std::size_t a = 0; a < profile.modes[m].actions.size(); ++a, ++number) {
                const Plain::Name name{m, a};
                SCOPED_TRACE("frame " + std::to_string(frame) + ", mode " + std::to_string(m) + ", action " +
                             std::to_string(a));
                if (profile.modes[m].actions[a].kind == ActionKind::axis) {
                    const AxisActionReading reading = reader[AxisAction{number}];
                    ASSERT_EQ(reading.value, plain.value(name));
                    ASSERT_NEAR(reading.integral * 1e9, plain.sums[name], 1e-6);
                    continue;
                }
                Counts expected;
                bool is_down = plain.was_down[name];
                std::int64_t since = t0;
                for (const Plain::Change& change : plain.changes[name]) {
                    unsigned* const counts[] = {&expected.press, &expected.release, &expected.adopt, &expected.cancel};
                    ++*counts[static_cast<unsigned>(change.kind)];
                    const bool down_after = change.kind == EdgeKind::press || change.kind == EdgeKind::adopt;
                    if (is_down && !down_after) expected.span += change.time - since;
                    if (down_after) since = change.time;
                    is_down = down_after;
                }
                if (is_down) expected.span += t1 - since;
                const ButtonFigures f = reader[ButtonAction{number}].figures();
                ASSERT_EQ((Counts{f.press_count(), f.release_count(), f.adopt_count(), f.cancel_count(),
                                  f.down_span().count()}),
                          expected);
                ASSERT_EQ(f.down(), plain.is_on[name]);
                ASSERT_EQ(reader[ButtonAction{number}].down(), f.down());
                ASSERT_EQ(reader[ButtonAction{number}].pressed(), f.pressed());
                ASSERT_EQ(reader[ButtonAction{number}].released(), f.released());
                ASSERT_EQ(reader[ButtonAction{number}].ended(), f.ended());
            }
        }
    }
}

TEST(ActionStreams, AgreeWithAPlainSecondImplementation) {
    if (const char* seed = std::getenv("CURSORUM_TEST_SEED")) return run(std::strtoull(seed, nullptr, 10));
    for (std::uint64_t seed = 1; seed <= 1000; ++seed) {
        run(seed);
        if (HasFatalFailure()) return;
    }
}

}  // namespace
