// A world around a game's loop: a person with a script, an engine that pumps at a frame rate, a clock that both share,
// and what a person would expect to come of it.
#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

#include "cursorum/cursorum.hpp"

namespace test {

using namespace cursorum;

/// The present in nanoseconds, as Clock::now() tells it in this program.
extern std::int64_t present;
/// How far each look at the clock moves it.
extern std::int64_t per_look;

/// What a person does, or what happens to the program; times in milliseconds from the start. What is earlier than that
/// is so at the start.
struct Deed {
    enum class Kind : std::uint8_t { key, focus, place, stick, stop } kind{};
    std::int64_t at = 0;  // nanoseconds
    Button key{};
    bool on = false;  // is down, or has the focus
    double x = 0, y = 0;
    std::int64_t length = 0;  // of a stop
};
using Script = std::vector<Deed>;

Deed down(double at, Button key);
Deed up(double at, Button key);
Deed focus(double at, bool has);
Deed place(double at, double x, double y);
Deed stick(double at, double x, double y);
/// The program stands still, as at a breakpoint; the system keeps what comes meanwhile.
Deed stop(double at, double length);

/// An engine and its window. Its pump waits for the next picture, and reports what happens meanwhile when it does.
class World {
public:
    World(const Script& script, int frames_per_second);
    virtual ~World() = default;
    World(const World&) = delete;
    World& operator=(const World&) = delete;

    struct Window {
    } my_window;
    bool running = true;
    static constexpr double speed = 100;  // per second

    void pump(Window&);

    // What an engine can ask its window system.
    ButtonSet my_keys_down() const { return keys_; }
    ButtonSet engine_keys_down() const { return keys_; }
    bool engine_key_is_down(Button key) const { return has_focus_ && keys_.contains(key); }
    bool engine_window_is_active() const { return has_focus_; }
    // What it calls back.
    std::function<void(Button, bool)> when_key;
    std::function<void(bool)> when_focus;
    std::function<void(double, double)> when_place, when_stick;

    /// Where the clocks of games leave time out, since the program stood still: from, to.
    struct Gap {
        std::int64_t from, to;
    };
    const std::vector<Gap>& gaps() const { return gaps_; }

private:
    void happen(const Deed& deed);

    static constexpr std::int64_t begin = 5'000'000'000;
    Script script_;
    std::size_t next_ = 0;
    std::int64_t frames_per_second_, frame_ = 0, since_ = 0, last_ = 0, end_ = 0;
    ButtonSet keys_;
    bool has_focus_ = true;
    std::vector<Gap> gaps_;
};

/// What came of a run, or should come of it.
struct Result {
    double x = 0, y = 0;
    int fired = 0, opened = 0;
    std::string problems;
};

/// How a game is played: which keys do what.
struct Controls {
    Button left{}, right{}, up{}, down{}, fire{}, open{};
    Button pause{};          ///< a press of it pauses, another one goes on
    bool has_stick = false;  ///< a stick moves, too, where the keys do not
    bool fires_on_release = false;
};
/// What a person expects: the way in the time that counts, and one shot for each press that was made for the game.
Result expected(const Script& script, const Controls& controls, const std::vector<World::Gap>& gaps);

}  // namespace test
