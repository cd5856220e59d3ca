// A second implementation of action readers, as plainly as possible, from docs/rules.md and docs/profile-format.md:
// everything is looked for again each time, nothing is prepared, and each moment of a frame is gone through in order.
#pragma once

#include <cstdint>
#include <functional>
#include <limits>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <tuple>
#include <utility>
#include <vector>

#include "actions/plain_input.hpp"
#include "cursorum/actions/action_reader.hpp"

namespace test {

inline constexpr std::int64_t never = std::numeric_limits<std::int64_t>::max();
inline bool starts(EdgeKind kind) { return kind == EdgeKind::press || kind == EdgeKind::adopt; }
inline bool is_persons(EdgeKind kind) { return kind == EdgeKind::press || kind == EdgeKind::release; }
/// Of a touch binding: its position, which is a vector.
inline bool is_position(const Binding& binding) { return binding.touch == TouchPart::position; }

class PlainReader {
public:
    explicit PlainReader(const Profile& profile);

    // What a game calls.
    bool open(unsigned mode);
    bool close(unsigned mode);
    int claim(const Claim& claim);
    void end_claim(int claim);
    /// The profile must live on. Actions and modes are those of the first profile, but some may be absent.
    void rebind(const Profile& profile) { next_profile_ = &profile; }
    struct Injected {
        std::int64_t time;
        std::size_t action;
        bool down;
        Vector2 value;
    };
    void inject(const Injected& what);
    bool consume_press(std::size_t action);

    /// `is_mine`: of a seat, whether it has this button of this device; null: all devices.
    using Filter = std::function<bool(unsigned device, Button button)>;
    void read(const PlainFrame& frame, const Filter& is_mine = nullptr);

    // What it says, by the numbers of the first profile's actions.
    struct Edge {
        std::int64_t time;
        std::size_t action;
        EdgeKind kind;
        bool of_adopted;
        friend bool operator==(const Edge&, const Edge&) = default;
    };
    const std::vector<Edge>& edges() const { return edges_; }
    struct Figures {
        unsigned press = 0, release = 0, adopt = 0, cancel = 0, repeat = 0, system_repeat = 0;
        std::int64_t held_for = 0, down_span = 0;
        bool was_down = false, down = false, released = false;
        friend bool operator==(const Figures&, const Figures&) = default;
    };
    Figures figures(std::size_t action) const;
    struct Motion {
        Vector2 value, before, integral, relative, facing;
    };
    const Motion& motion(std::size_t action) const { return actions_[action].motion; }
    struct Change {
        std::int64_t time;
        std::size_t by;
        unsigned mode;
        bool opened;
        friend bool operator==(const Change&, const Change&) = default;
    };
    const std::vector<Change>& changes() const { return changes_; }
    bool pauses() const;
    bool is_open(unsigned mode) const;
    bool is_visible(unsigned mode) const;
    ButtonOwner owner_of(Button button) const;
    bool has_press(int claim, Button button) const;
    /// Whose each text of the frame is: "mode 1 5 typed abc", with its time; "nobody"; none that is of another seat.
    const std::vector<std::string>& texts() const { return texts_; }
    std::int64_t end() const { return t1_; }

private:
    using Place = std::pair<std::size_t, unsigned>;  // of a binding in its action, and of a direction in it
    struct Contact {
        bool pressed = false;
        std::uint64_t order = 0;  // of going down, over all
    };
    struct Hold {
        bool adopted = false;
        std::int64_t since = 0;
    };
    struct State {
        const Action* action = nullptr;  // null while it is absent
        Action before{};                 // what it was
        unsigned mode = 0;
        std::map<Place, Contact> is_down;                          // what is
        std::map<Place, std::set<std::uint16_t>> stale;            // members that must come up first; 0: its own state
        std::set<std::size_t> stale_sources;                       // bindings that must come to rest first
        std::map<std::size_t, double> values;                      // of bindings with thresholds
        std::map<std::size_t, std::map<unsigned, PlainPad>> pads;  // as each of them has seen them
        std::map<std::size_t, PlainContacts> contacts;             // likewise
        bool bot_down = false;
        Vector2 bot{};
        // Debouncing: the level of the bindings, and what was passed on.
        bool raw = false, passed = false, is_fresh = true;
        std::int64_t passed_at = 0;
        // Gestures.
        bool is_on = false, waits = false;
        std::int64_t since = 0;
        std::optional<std::int64_t> buffered;
        std::optional<Hold> hold, hold_at_start;
        unsigned system_repeats = 0;
        // Axes and vectors.
        Motion motion;
        Vector2 target{};
        bool rises = false;
        std::uint8_t direction = 0;
    };
    struct Owner {
        enum class Who { nobody, mode, claim, claim_press, ended } who = Who::nobody;
        int number = 0;
        friend bool operator==(const Owner&, const Owner&) = default;
    };
    /// Why modes changed, for motion of the same instant.
    struct Cause {
        enum class Kind { timer, event, wheel, last } kind = Kind::last;
        std::size_t order = 0;
    };
    struct Turn {
        std::int64_t time;
        Cause cause;
        int motion_owner, wheel_owner;  // modes; -1: nobody
    };
    enum class Flow { motion, wheel, touch, axis };

    bool binds(unsigned mode, Button button) const;
    int flow_owner(Flow flow, Axis axis = {}) const;
    Owner next_owner(Button button) const;
    const Claim* claim_on(unsigned device) const;
    bool has_text() const;
    Owner text_owner(Button key) const;
    void take_text(const Happening& what);

    void rebind_now();
    void heal(const PlainFrame& frame, const Filter& is_mine);
    void hold_edge(unsigned device, Button button, EdgeKind kind, std::int64_t time);
    void merged_edge(Button name, bool was_down, bool was_pressed, bool is_down, EdgeKind kind, std::int64_t time);
    void button_edge(Button button, EdgeKind kind, std::int64_t time);
    void give(Button button, Owner owner, EdgeKind kind, std::int64_t time);
    void take_away(Button button, Owner owner, EdgeKind kind, std::int64_t time);
    std::vector<Button> members(const Action& action, Place place) const;
    bool is_complete(const State& state, Place place, Owner owner) const;
    void contact(std::size_t action, Place place, EdgeKind kind, std::int64_t time);
    void bot(std::size_t action, bool down, std::int64_t time);
    void or_edge(std::size_t action, bool others_down, bool others_pressed, EdgeKind kind, std::int64_t time);
    void deliver(std::size_t action, EdgeKind kind, std::int64_t time);
    void pass(std::size_t action, EdgeKind kind, std::int64_t time);
    void gesture(std::size_t action, EdgeKind kind, std::int64_t time);
    void fire(std::size_t action, EdgeKind kind, std::int64_t time);
    void run_timers(std::int64_t until);
    void forget(std::size_t action, std::int64_t time);
    void open_and_close(std::int64_t time);
    void change_modes(std::int64_t time, Cause cause);
    void set_states(std::int64_t time);
    void set_locks(const ButtonSet& on, EdgeKind down, EdgeKind up, std::int64_t time);
    void set_value(std::size_t action, std::size_t binding, bool by_person, std::int64_t time);
    double value_of(State& state, std::size_t binding) const;
    void see(State& state, std::size_t binding);
    bool has_device(unsigned device) const;
    const PlainContact* oldest(const PlainContacts& contacts) const;
    void step_wheel(double x, double y, std::int64_t time);
    void step_wheel_once(WheelWay way, std::int64_t time);
    void skip(const PlainFrame& frame);
    void happen(const Happening& what, const Filter& is_mine);
    void move_to(std::int64_t time);
    void settle_and_move(std::int64_t time);
    void rest_sources();
    void retarget();
    Vector2 source_of(const State& state, std::size_t binding) const;
    void add_relative();

    const Profile* profile_;
    const Profile* next_profile_ = nullptr;
    std::vector<State> actions_;
    std::vector<unsigned> open_, next_open_;
    std::set<unsigned> visible_;
    std::map<int, Claim> claims_, next_claims_;
    bool reopens_ = false;
    std::vector<Injected> injected_;
    std::uint64_t next_serial_ = 0;
    bool has_read_ = false;

    std::int64_t t0_ = 0, t1_ = 0, at_ = 0;
    std::set<std::uint16_t> down_;                 // merged, as read
    std::map<std::uint16_t, Owner> owners_;        // of those
    std::map<std::uint16_t, std::uint64_t> went_;  // down as the person's n-th press; 0: found down
    std::uint64_t presses_ = 0, order_ = 0;
    PlainHolds holds_;                                       // that make it up
    std::map<std::pair<unsigned, std::string>, int> taken_;  // holds that a claim on their device took
    bool is_partial_ = false;

    std::map<unsigned, PlainPad> pads_;
    const Filter* is_mine_ = nullptr;
    ButtonSet locks_;
    PlainContacts contacts_;
    std::vector<std::size_t> pressed_;  // actions that open or close modes, by the present event
    std::map<std::uint16_t, Owner> pressers_;  // while a mode takes text: who got each key's last press
    Owner composer_;
    std::vector<std::string> texts_;
    std::vector<Edge> edges_;
    std::vector<Change> changes_;
    std::vector<Turn> turns_;
    std::vector<Happening> moved_;
    std::map<std::size_t, std::vector<std::pair<std::int64_t, EdgeKind>>> of_action_;
};

}  // namespace test
