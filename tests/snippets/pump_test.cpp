// docs/your-own-pump.md: what each kind of event source sends while a person types, through the lines that the page
// shows for it, at 10 to 1,000 frames per second.

#include <gtest/gtest.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "pumps.hpp"
#include "snippets/world.hpp"

namespace {

/// A source as the person's deeds reach it. `keys`: what is down.
struct Source {
    virtual ~Source() = default;
    virtual Timeline& timeline() = 0;
    virtual void key(Button key, bool down) = 0;
    virtual void repeat(Button) {}
    virtual void focus(bool has, const ButtonSet& keys) = 0;
    virtual void poll(const ButtonSet&, bool) {}
};

struct OfWayland final : Source {
    WaylandPump pump;
    Timeline& timeline() override { return pump.timeline; }
    static std::uint32_t code(Button key) { return number_in(KeyTable::linux_code, key).value(); }
    void key(Button key, bool down) override { pump.on_key(code(key), down ? 1 : 0); }
    void repeat(Button key) override { pump.on_key(code(key), 2); }
    void focus(bool has, const ButtonSet& keys) override {
        std::vector<std::uint32_t> codes;
        keys.for_each([&](Button key) { codes.push_back(code(key)); });
        has ? pump.on_enter(codes) : pump.on_leave();
    }
};

struct OfEvdev final : Source {
    EvdevPump pump;
    Timeline& timeline() override { return pump.timeline; }
    void send(Button key, int value) {
        pump.on_key_event(static_cast<std::uint16_t>(number_in(KeyTable::linux_code, key).value()), value,
                          Clock::now());
    }
    void key(Button key, bool down) override { send(key, down ? 1 : 0); }
    void repeat(Button key) override { send(key, 2); }
    // The kernel knows no focus: the window's source tells.
    void focus(bool has, const ButtonSet& keys) override { has ? pump.desk.gain_focus(keys) : pump.desk.lose_focus(); }
};

struct OfWindowMessages final : Source {
    WindowMessagePump pump;
    Timeline& timeline() override { return pump.timeline; }
    void send(Button key, bool was_down, bool is_down) {
        const unsigned code = number_in(KeyTable::message_scan_code, key).value();
        pump.on_key_message(1U | (code & 0xFF) << 16 | (code > 0xFF ? 1U << 24 : 0U) | (was_down ? 1U << 30 : 0U) |
                            (is_down ? 0U : 1U << 31));
    }
    void key(Button key, bool down) override { send(key, !down, down); }
    void repeat(Button key) override { send(key, true, true); }
    void focus(bool has, const ButtonSet& keys) override {
        std::array<std::uint8_t, 256> down{};
        keys.for_each([&](Button key) { down[number_in(KeyTable::virtual_key, key).value()] = 1; });
        has ? pump.on_focus(down) : pump.on_no_focus();
    }
};

struct OfBrowsers final : Source {
    BrowserPump pump;
    Timeline& timeline() override { return pump.timeline; }
    void key(Button key, bool down) override { pump.on_key(name_of(key), down, false); }
    void repeat(Button key) override { pump.on_key(name_of(key), true, true); }
    void focus(bool has, const ButtonSet&) override { has ? pump.on_focus() : pump.on_blur(); }
};

struct OfMacintosh final : Source {
    MacintoshPump pump;
    Timeline& timeline() override { return pump.timeline; }
    static std::uint16_t code(Button key) {
        return static_cast<std::uint16_t>(number_in(KeyTable::macintosh, key).value());
    }
    void key(Button key, bool down) override {
        key == ShiftLeft ? pump.on_flags(code(key), down) : pump.on_key(code(key), down, false);
    }
    void repeat(Button key) override { pump.on_key(code(key), true, true); }
    void focus(bool has, const ButtonSet&) override { has ? pump.on_active() : pump.on_inactive(); }
};

struct OfPolledBytes final : Source {
    PolledPump pump;
    Timeline& timeline() override { return pump.timeline; }
    void key(Button, bool) override {}
    void focus(bool, const ButtonSet&) override {}
    void poll(const ButtonSet& keys, bool has_focus) override {
        std::array<std::uint8_t, 256> bytes{};
        keys.for_each([&](Button key) { bytes[number_in(KeyTable::scan_code, key).value()] = 0x80; });
        pump.poll(bytes, KeyTable::scan_code, has_focus);
    }
};

struct Result {
    double box = 0;
    unsigned locks = 0, slow_presses = 0;
    double slow = 0;
};

// D for a second; Shift; D over a loss of the focus, still held as it comes back; a tap of 4 ms; D and Space pressed
// while another window has the focus, and Space still held as it comes back.
Result play(Source& source, int rate) {
    struct Deed {
        double at;
        Button key;  // none: the focus
        bool on;
    };
    const std::vector<Deed> deeds{{0.5, KeyD, true},       {1.5, KeyD, false},     {1.6, ShiftLeft, true},
                                  {1.8, ShiftLeft, false}, {2.0, KeyD, true},      {2.5, Button{}, false},
                                  {3.0, Button{}, true},   {3.5, KeyD, false},     {4.0, Space, true},
                                  {4.004, Space, false},   {4.5, Button{}, false}, {4.6, Space, true},
                                  {5.0, Button{}, true},   {5.5, Space, false}};
    const std::int64_t begin = test::present;
    const auto nanoseconds_of = [](double seconds) { return std::llround(seconds * 1e9); };
    Sampler sampler{source.timeline()};
    PictureClock pictures;
    ButtonSet keys;
    bool has_focus = true;
    Button repeating{};
    std::int64_t next_repeat = 0;
    std::size_t next = 0;
    Result result;
    for (int frame = 1; frame <= 6 * rate; ++frame) {
        const std::int64_t until = std::int64_t{frame} * 1'000'000'000 / rate;
        while (true) {
            const std::int64_t deed_at = next < deeds.size() ? nanoseconds_of(deeds[next].at) : INT64_MAX;
            const bool is_repeat = repeating && next_repeat < deed_at;
            if (std::min(deed_at, is_repeat ? next_repeat : INT64_MAX) > until) break;
            if (is_repeat) {
                test::present = begin + next_repeat;
                next_repeat += 33'000'000;
                if (has_focus) source.repeat(repeating);
                continue;
            }
            const Deed& deed = deeds[next++];
            test::present = begin + deed_at;
            if (!deed.key) {
                has_focus = deed.on;
                source.focus(deed.on, keys);
                continue;
            }
            keys.set(deed.key, deed.on);
            if (has_focus) source.key(deed.key, deed.on);
            repeating = deed.on && deed.key != ShiftLeft ? deed.key : Button{};
            next_repeat = deed_at + 400'000'000;
        }
        test::present = begin + until;
        source.poll(keys, has_focus);
        const auto tick = pictures.next(Clock::now());
        if (!tick) continue;
        const Frame& it = sampler.advance(*tick);
        result.box += 100 * tick->step * it[KeyD].down_share();
        result.slow += 100 * tick->step * it[Shift].down_share();
        result.locks += it[Space].press_count();
        result.slow_presses += it[Shift].press_count();
    }
    return result;
}

TEST(YourOwnPump, EachSourceGivesWhatThePersonDid) {
    struct Row {
        const char* what;
        std::function<std::unique_ptr<Source>()> make;
        bool asks;   // it can be asked for what is down when the focus comes
        bool polls;  // it sees levels at frames only
    };
    const Row rows[] = {{"Wayland", [] { return std::make_unique<OfWayland>(); }, true, false},
                        {"event devices", [] { return std::make_unique<OfEvdev>(); }, true, false},
                        {"window messages", [] { return std::make_unique<OfWindowMessages>(); }, true, false},
                        {"browsers", [] { return std::make_unique<OfBrowsers>(); }, false, false},
                        {"Macintosh", [] { return std::make_unique<OfMacintosh>(); }, false, false},
                        {"polled bytes", [] { return std::make_unique<OfPolledBytes>(); }, true, true}};
    for (const Row& row : rows)
        for (const int rate : {10, 30, 60, 144, 1000}) {
            SCOPED_TRACE(std::string{row.what} + ", " + std::to_string(rate) + " frames per second");
            const auto source = row.make();
            const Result result = play(*source, rate);
            // A key held as the focus comes back: known at once if one can ask; else at the system's next repeat.
            const double off = 0.01 + (row.polls ? 200.0 / rate : 0) + (row.asks ? 0 : 3.4);
            EXPECT_NEAR(result.box, 200, off);
            EXPECT_NEAR(result.slow, 20, 0.01 + (row.polls ? 100.0 / rate : 0));
            EXPECT_EQ(result.slow_presses, 1U);
            if (row.polls)
                EXPECT_LE(result.locks, 1U) << "a tap between two polls is not seen, which the page says";
            else
                EXPECT_EQ(result.locks, 1U);
        }
}

TEST(YourOwnPump, PrintScreenHasAPressInWindowMessages) {
    WindowMessagePump pump;
    Sampler sampler{pump.timeline};
    constexpr std::uint32_t release = 1U | 0x37U << 16 | 1U << 24 | 1U << 30 | 1U << 31;
    for (int i = 0; i < 2; ++i) {
        test::present += 50'000'000;
        pump.on_key_message(release);
        EXPECT_EQ(sampler.advance(Clock::now())[PrintScreen].press_count(), 1U);
    }
    EXPECT_EQ(pump.desk.counters().strays, 0U);
}

TEST(YourOwnPump, PadSlotsComeAndGo) {
    PolledPump pump;
    Sampler sampler{pump.timeline};
    std::array<PadSlot, 4> slots{};
    std::array<float, 4> axes{};
    const auto frame = [&]() -> const Frame& {
        test::present += 16'000'000;
        pump.poll_pads(slots);
        return sampler.advance(Clock::now());
    };
    EXPECT_FALSE(frame()[PadSouth].down());
    slots[2] = {.is_connected = true, .buttons = 1, .axes = axes};
    EXPECT_EQ(frame()[PadSouth].press_count(), 0U) << "held as it is plugged in: adopted";
    slots[2].buttons = 0;
    frame();
    slots[2].buttons = 1, axes[0] = 1;
    EXPECT_EQ(frame()[PadSouth].press_count(), 1U);
    EXPECT_EQ(sampler.frame().stick(PadStickLeft).now.x, 1);
    slots[2] = {};
    EXPECT_FALSE(frame()[PadSouth].down());
    EXPECT_EQ(sampler.frame().stick(PadStickLeft).now.x, 0);
}

}  // namespace
