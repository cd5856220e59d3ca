// A shipped profile with a player's changes: binding, conflicts, overlays as text and files, files that change.
#include <gtest/gtest.h>
#if defined(_WIN32)
#include <process.h>
#define getpid _getpid
#else
#include <sys/resource.h>
#include <unistd.h>
#endif

#include <csignal>
#include <filesystem>
#include <fstream>
#include <limits>
#include <map>
#include <sstream>

#include "actions/action_run.hpp"
#include "core/random_events.hpp"
#include "cursorum/actions/binding_text.hpp"
#include "cursorum/actions/player_profile.hpp"
#include "cursorum/actions/profile_watch.hpp"
#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using test::profile_of;

const std::string three = R"(
[mode.m.action.lock]
kind = "button"
bind = ["Space", "PadSouth"]
[mode.m.action.horn]
kind = "button"
bind = ["KeyH"]
[mode.m.action.hop]
kind = "button"
bind = ["KeyJ"]
gesture = "tap"
[mode.m.action.lift]
kind = "axis"
bind = [{ minus = "KeyF", plus = "KeyR" }]
[mode.n.action.other]
kind = "button"
bind = ["KeyH"]
)";

std::string bindings_of(const PlayerProfile& player, std::string_view action) {
    std::string all;
    const Action& of = *player.profile().action(action);
    for (const Binding& binding : of.bindings) all += (all.empty() ? "" : ", ") + binding_text(of.kind, binding);
    return all;
}

Binding button(Button button) { return {.buttons = {button}}; }

TEST(PlayerProfile, SettlesConflicts) {
    const Profile shipped = profile_of(three);
    PlayerProfile player{shipped};
    const auto shown = [&] { return bindings_of(player, "lock") + "; " + bindings_of(player, "horn"); };
    const Binding key_h = button(controls::KeyH);
    EXPECT_EQ(player.conflicts_of("lock", key_h), (std::vector<BindingConflict>{{"m.horn", 0, "KeyH"}}))
        << "another mode's is none";
    EXPECT_EQ(player.conflicts_of("hop", key_h).size(), 0U) << "nor is another gesture's";
    EXPECT_EQ(player.conflicts_of("horn", button(controls::KeyF)),
              (std::vector<BindingConflict>{{"m.lift", 0, "KeyF"}}));
    std::string why;
    EXPECT_FALSE(player.bind("lock", 0, key_h, Settle::refuse, &why));
    EXPECT_EQ(why, "m.horn has KeyH");
    EXPECT_TRUE(player.bind("m.lock", 0, key_h, Settle::swap));
    EXPECT_EQ(shown(), "KeyH, PadSouth; Space");
    EXPECT_TRUE(player.undo());
    EXPECT_EQ(player.profile(), shipped);
    EXPECT_TRUE(player.bind("lock", 2, key_h, Settle::replace));
    EXPECT_EQ(shown(), "Space, PadSouth, KeyH; ");
    EXPECT_TRUE(player.bind("horn", 0, key_h, Settle::keep_both));
    EXPECT_EQ(shown(), "Space, PadSouth, KeyH; KeyH");
    EXPECT_TRUE(player.unbind("lock", 0));
    EXPECT_TRUE(player.reset("lock"));
    EXPECT_EQ(bindings_of(player, "lock"), "Space, PadSouth");
    EXPECT_FALSE(player.reset("lock")) << "it is already";
    EXPECT_FALSE(player.bind("lock", 4, key_h, Settle::replace, &why));
    EXPECT_EQ(why, "found binding 4; expected 0 to 2");
    EXPECT_FALSE(player.bind("lcok", 0, key_h, Settle::replace, &why));
    EXPECT_EQ(why, "found \"lcok\"; expected the name of an action; did you mean \"lock\"?");
    EXPECT_FALSE(player.bind("lift", 0, key_h, Settle::replace, &why));
    EXPECT_EQ(why, "action \"m.lift\" has a binding that does not fit its kind");
    EXPECT_FALSE(player.unbind("lock", 2) || player.unbind("n.lock", 0) || player.invert("gone", true, true));
    EXPECT_TRUE(player.unbind("horn", 0));
    EXPECT_TRUE(player.reset_all());
    while (player.undo()) {
    }
    EXPECT_EQ(player.profile(), shipped);
    EXPECT_EQ(player.overlay(), "format = \"cursorum-overlay\"\nversion = 1\n");
}

TEST(PlayerProfile, TakingAndSwappingLeaveNoConflict) {
    for (std::uint64_t seed = 1; seed <= 300; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        test::Random random{seed};
        constexpr Button keys[] = {controls::KeyF, controls::KeyH, controls::Space, controls::ShiftLeft,
                                   controls::Shift};
        constexpr const char* names[] = {"m.lock", "m.horn", "m.hop"};
        PlayerProfile player{profile_of(three)};
        for (int i = 0; i < 12; ++i) {
            const char* const name = names[random.below(3)];
            Binding binding = button(keys[random.below(5)]);
            if (const Button other = keys[random.below(5)]; random.one_in(4) && other != binding.buttons[0])
                binding.buttons.push_back(other);
            const std::size_t slots = player.profile().action(name)->bindings.size();
            ASSERT_TRUE(
                player.bind(name, random.below(slots + 1), binding, random.one_in(2) ? Settle::swap : Settle::replace));
            for (const Action& action : player.profile().modes[0].actions)
                for (const Binding& its : action.bindings)
                    ASSERT_EQ(player.conflicts_of("m." + action.name, its).size(), 0U) << action.name;
        }
    }
}

TEST(PlayerProfile, SuitsOneHandAndOtherSticks) {
    PlayerProfile player{profile_of(R"(
[mode.m.action.look]
kind = "vector"
bind = [{ stick = "PadStickRight" }, { motion = "both" }, { left = "KeyA", right = "KeyD", up = "KeyW", down = "KeyS" }]
[mode.m.action.lift]
kind = "axis"
bind = [{ axis = "PadStickLeftY" }, { minus = "KeyF", plus = "KeyR" }]
[mode.m.action.next]
kind = "button"
bind = ["PadStickLeftDown", "PadThumbRight"]
[mode.m.action.fast]
kind = "button"
bind = ["ControlRight+KeyP"]
[mode.m.action.slow]
kind = "button"
bind = ["Shift"]
[mode.m.action.fire]
kind = "button"
bind = ["MouseLeft"]
gesture = "tap"
)")};
    using Names = std::vector<std::string>;
    EXPECT_TRUE(player.invert("look", false, true));
    EXPECT_EQ(bindings_of(player, "look"),
              "{ stick = \"PadStickRight\", invert = \"y\" }, { motion = \"both\", invert = \"y\" }, "
              "{ left = \"KeyA\", right = \"KeyD\", up = \"KeyW\", down = \"KeyS\" }");
    EXPECT_TRUE(player.invert("look", false, true));
    EXPECT_TRUE(player.invert("lift", true, false));
    EXPECT_TRUE(player.swap_sticks());
    EXPECT_EQ(bindings_of(player, "look").substr(0, 28), "{ stick = \"PadStickLeft\" }, ");
    EXPECT_EQ(bindings_of(player, "lift").substr(0, 66),
              "{ axis = \"PadStickRightY\", dead_zone = 0.15, scale = -1 }, { minus");
    EXPECT_EQ(bindings_of(player, "next"), "PadStickRightDown, PadThumbLeft");
    EXPECT_TRUE(player.hold_or_toggle("slow"));
    EXPECT_EQ(player.profile().action("slow")->gesture, Gesture::toggle);
    EXPECT_TRUE(player.hold_or_toggle("slow"));
    EXPECT_FALSE(player.hold_or_toggle("fire")) << "a tap is neither";
    EXPECT_EQ(player.out_of_reach(Hand::left), (Names{"m.fast", "m.fire"}));
    EXPECT_EQ(player.out_of_reach(Hand::right), Names{}) << "each has a way on the right";
    EXPECT_EQ(player.out_of_reach(Hand::left, Hand::left), Names{"m.fast"});
    PlayerProfile again{profile_of("[mode.m.action.a]\nkind = \"button\"\nbind = []\n")};
    EXPECT_EQ(again.out_of_reach(Hand::left), Names{"m.a"});
    EXPECT_FALSE(again.invert("a", true, true) || again.swap_sticks()) << "nothing to change";
}

TEST(PlayerProfile, KeepsTheChangesWhenTheShippedOneIsReplaced) {
    PlayerProfile player{profile_of(three)};
    ASSERT_TRUE(player.bind("horn", 0, button(controls::KeyG), Settle::refuse));
    ASSERT_TRUE(player.bind("hop", 0, button(controls::KeyQ), Settle::refuse));
    const std::string before = player.overlay();
    Profile next = profile_of(three);
    next.modes[0].actions.erase(next.modes[0].actions.begin());  // all numbers change
    std::swap(next.modes[0].actions[0], next.modes[0].actions[2]);
    next.modes[0].actions[2].name = "signal";
    next.modes[0].actions[2].formerly = {"horn"};
    std::erase_if(next.modes[0].actions, [](const Action& action) { return action.name == "hop"; });
    player.set_shipped(next);
    EXPECT_EQ(bindings_of(player, "signal"), "KeyG");
    EXPECT_EQ(player.profile().action("lift")->bindings, next.modes[0].actions[0].bindings);
    ASSERT_EQ(player.dropped().size(), 1U);
    EXPECT_EQ(player.dropped()[0].found, "the action \"hop\"");
    EXPECT_FALSE(player.undo()) << "what it would go back to is no longer there";
    ProfileError error;
    EXPECT_FALSE(player.set_overlay("format = 3", "o.toml", error));
    EXPECT_EQ(bindings_of(player, "signal"), "KeyG") << "nothing changed";
    EXPECT_TRUE(player.set_overlay("", "o.toml", error));
    EXPECT_EQ(player.profile(), next);
    EXPECT_TRUE(player.set_overlay(before, "o.toml", error)) << error.message();
    EXPECT_EQ(bindings_of(player, "signal"), "KeyG");
}

// ---- bindings as text

/// Any binding, mostly one that could be meant.
Binding random_binding(test::Random& random) {
    const Button keys[] = {controls::KeyA,
                           controls::Shift,
                           controls::ShiftLeft,
                           controls::MouseLeft,
                           controls::PadSouth,
                           controls::PadStickLeftUp,
                           controls::CapsLock,
                           find_button("PadPullRight"),
                           Button{}};
    constexpr double nan = std::numeric_limits<double>::quiet_NaN();
    const auto one_of = [&]<typename Value>(std::initializer_list<Value> values) {
        return *(values.begin() + random.below(values.size()));
    };
    Binding b{.kind = static_cast<Binding::Kind>(random.below(11))};
    const std::uint64_t usual = b.kind == Binding::Kind::buttons      ? 1 + random.below(3)
                                : b.kind == Binding::Kind::wheel_step ? random.below(3)
                                : b.kind == Binding::Kind::value      ? 1
                                : b.kind == Binding::Kind::pair       ? 2
                                : b.kind == Binding::Kind::cross      ? 4
                                                                      : 0;
    for (std::uint64_t count = random.one_in(9) ? random.below(6) : usual; count > 0; --count)
        b.buttons.push_back(keys[random.below(random.one_in(9) ? 9 : 8)]);
    const bool is_chord = b.kind == Binding::Kind::buttons, is_touch = b.kind == Binding::Kind::touch;
    const bool is_value = b.kind == Binding::Kind::value, is_step = b.kind == Binding::Kind::wheel_step;
    const auto with = [&](bool fits, unsigned often) { return random.one_in(fits ? often : 60); };
    if (with(is_chord || is_step, 4)) b.in_order = true;
    if (with(is_step, 1)) b.wheel_way = static_cast<WheelWay>(random.below(5));
    if (with(is_chord, 6)) {
        b.symbol = one_of({"z", "\"", "a'", "\\", "\u00f6", "\x01", "KeyA", "toolongasymbol", "\xff"});
        if (!b.buttons.empty()) b.buttons.back() = KeyLayout{}.key_of(b.symbol);
    }
    if (with(b.kind == Binding::Kind::lock, 1))
        b.lock = one_of({controls::CapsLock, controls::ScrollLock, controls::KeyA});
    if (with(is_value || is_touch, is_value ? 1 : 2))
        b.thresholds = {one_of({0.5, 0.01, 1.0, 0.005, 1.5, nan}), one_of({0.4, 0.0, 0.7, -0.1, nan})};
    if (with(is_touch, 1)) b.touch = static_cast<TouchPart>(random.below(4));
    b.axis.number =
        static_cast<std::uint8_t>(with(b.kind == Binding::Kind::axis, 1) ? random.below(axis_kinds + 1) : 0);
    b.stick.number = static_cast<std::uint8_t>(with(b.kind == Binding::Kind::stick, 1) ? random.below(3) : 0);
    if (random.one_in(6)) b.vertical = true;
    if (random.one_in(6)) b.raw = true;
    if (random.one_in(6)) b.invert_x = true;
    if (random.one_in(6)) b.invert_y = true;
    if (random.one_in(4)) b.dead_zone = one_of({0.15, 0.99, 0.995, 1.0, -0.1, nan});
    if (random.one_in(4)) b.scale = one_of({-1.0, 0.1, 1000.0, 1000.5, 0.0, nan, -3e-7});
    return b;
}

TEST(BindingText, OfWhateverAProfileTakesReadsAsTheSame) {
    std::map<std::pair<ActionKind, Binding::Kind>, int> taken;
    test::Random random{25};
    for (int i = 0; i < 40'000; ++i) {
        const auto kind = static_cast<ActionKind>(random.below(3));
        const Binding binding = random_binding(random);
        Profile profile;
        profile.modes = {{.name = "m", .actions = {{.name = "a", .kind = kind, .bindings = {binding}}}}};
        if (profile.problem()) continue;
        ++taken[{kind, binding.kind}];
        const std::string text = binding_text(kind, binding);
        std::string why;
        const auto read = parse_binding(kind, text, &why);
        ASSERT_TRUE(read) << text << ": " << why;
        ASSERT_EQ(*read, binding) << text << " and " << binding_text(kind, *read);
    }
    EXPECT_EQ(taken.size(), 14U) << "each kind of action with each that it can have";
    for (const auto& [kinds, count] : taken)
        EXPECT_GT(count, 10) << name_of(kinds.first) << ", " << static_cast<unsigned>(kinds.second);
}

TEST(BindingText, OfWhatNoProfileTakesIsRefused) {
    for (const auto& [kind, text] : {
             std::pair{ActionKind::button, "Space+"},
             {ActionKind::button, "ControlLeft>"},
             {ActionKind::button, "+Space"},
             {ActionKind::button, "ControlLeft>Shift+KeyA"},
             {ActionKind::button, "KeyA+KeyA"},
             {ActionKind::button, "WheelUp+KeyA"},
             {ActionKind::button, "KeyA+KeyB+KeyC+KeyD+KeyE"},
             {ActionKind::button, "{ symbol = \"toolongasymbol\" }"},
             {ActionKind::button, "{ symbol = \"KeyA\" }"},
             {ActionKind::button, "{ button = \"PadPullLeft\", press = 0.5, release = 0.6 }"},
             {ActionKind::vector, "{ motion = \"both\", dead_zone = 0.1 }"},
             {ActionKind::vector, "{ wheel = \"both\", raw = true }"},
             {ActionKind::axis, "{ minus = \"KeyA\", plus = \"KeyB\", invert = \"x\" }"},
             {ActionKind::axis, "{ minus = \"KeyA\", plus = \"KeyA\" }"},
             {ActionKind::axis, "{ wheel = \"y\", scale = 1000.5 }"},
             {ActionKind::axis, "{ axis = \"PadPullLeft\", dead_zone = 1 }"},
         }) {
        std::string why;
        EXPECT_FALSE(parse_binding(kind, text, &why)) << text;
        EXPECT_NE(why.find("found "), why.npos) << text << ": " << why;
        EXPECT_NE(why.find("expected "), why.npos) << text << ": " << why;
    }
}

// ---- overlays

void change_action(test::Random& random, Action& action) {
    const auto ms = [&] { return Duration{static_cast<std::int64_t>(random.below(900)) * 1'000'001}; };
    const bool is_button = action.kind == ActionKind::button;
    switch (random.below(10)) {
        case 0: action.bindings.clear(); break;
        case 1: action.bindings.push_back(random_binding(random)); break;
        case 2: action.rise = ms(), action.fall = ms(); break;
        case 3: action.opposed = static_cast<WhenOpposed>(random.below(3)); break;
        case 4: action.directions = static_cast<std::uint8_t>(4 * random.below(3)); break;
        case 5:
            if (!is_button) break;
            action.gesture = static_cast<Gesture>(random.below(6));
            action.gesture_time = random.one_in(2) ? usual_time(action.gesture) : ms();
            break;
        case 6: action.repeat = {ms(), ms(), static_cast<std::uint32_t>(random.below(9))}; break;
        case 7: action.opens = random.one_in(3) ? "" : random.one_in(2) ? "n" : "gone"; break;
        case 8: action.formerly = {"was \u00e4", "it's"}; break;
        default: action.debounce = ms(), action.buffer = ms(), action.min_interval = ms(), action.closes = true;
    }
}

TEST(Overlay, IsWhatDiffersAndReadsAsTheSame) {
    int valid = 0;
    Profile shipped = profile_of(three);
    shipped.modes[0].actions.push_back({.name = "look", .kind = ActionKind::vector, .directions = 8});
    for (std::uint64_t seed = 1; seed <= 1500; ++seed) {
        SCOPED_TRACE("seed " + std::to_string(seed));
        test::Random random{seed};
        if (random.one_in(20)) shipped.shaping = random.one_in(2) ? std::optional{DeviceShaping{}} : std::nullopt;
        Profile changed = shipped;
        for (std::uint64_t i = random.below(4); i > 0; --i) {
            Mode& mode = changed.modes[random.below(2)];
            change_action(random, mode.actions[random.below(mode.actions.size())]);
            if (random.one_in(4)) mode.covers = !mode.covers;
            if (random.one_in(4)) mode.pauses = !mode.pauses;
            if (random.one_in(6)) mode.formerly = {"old"};
            if (random.one_in(6)) changed.title = "the \"quay\", \\ \t \u00e4";
        }
        if (random.one_in(4)) changed.shaping.reset();
        if (random.one_in(3)) {
            StickShaping& stick = changed.shaping.emplace().sticks[random.below(2)];
            stick.response.dead_zone = 0.01 * static_cast<double>(random.below(120));
            if (random.one_in(2)) stick.directions = StickDirections::eight;
            if (random.one_in(2)) stick.zone = StickShaping::Zone::axial;
            changed.shaping->pulls[1].response.curve = 0.3;
        }
        if (changed.problem()) continue;
        ++valid;
        Profile read = shipped;
        ProfileError error;
        const std::string text = overlay_text(shipped, changed);
        ASSERT_TRUE(apply_overlay(read, text, "o.toml", error)) << error.message() << '\n' << text;
        ASSERT_EQ(read, changed) << text;
        ASSERT_EQ(changed == shipped, text == "format = \"cursorum-overlay\"\nversion = 1\n");
    }
    EXPECT_GT(valid, 400);
}

TEST(Overlay, StaysGoodWhenTheShippedProfileChanges) {
    const std::string overlay = R"(format = "cursorum-overlay"
version = 1
[mode.m.action.lock_box]
bind = ["KeyB"]
[mode.m.action.gone]
bind = ["KeyG"]
[mode.m.action.lift]
bind = ["KeyL"]
[mode.old.action.other]
bind = ["KeyO"]
)";
    Profile profile = profile_of(R"(
[mode.m.action.lock]
kind = "button"
bind = ["Space"]
formerly = ["lock_box"]
[mode.m.action.added]
kind = "button"
bind = ["KeyN"]
[mode.m.action.lift]
kind = "axis"
bind = [{ minus = "KeyF", plus = "KeyR" }]
)");
    const Profile before = profile;
    ProfileError error;
    EXPECT_FALSE(apply_overlay(profile, overlay, "o.toml", error));
    EXPECT_EQ(profile, before);
    std::vector<ProfileError> dropped;
    ASSERT_TRUE(apply_overlay(profile, overlay, "o.toml", error, dropped)) << error.message();
    EXPECT_EQ(profile.modes[0].actions[0].bindings, std::vector{button(controls::KeyB)});
    EXPECT_EQ(profile.modes[0].actions[2], before.modes[0].actions[2]) << "what does not fit changes nothing";
    std::string said;
    for (const ProfileError& it : dropped) said += it.file + ":" + std::to_string(it.line) + " " + it.found + "\n";
    EXPECT_EQ(said, "o.toml:5 the action \"gone\"\no.toml:8 \"KeyL\"\no.toml:9 the mode \"old\"\n");
    EXPECT_FALSE(apply_overlay(profile, "format = 3", "o.toml", error, dropped)) << "no overlay at all";
}

std::string text_of(const std::filesystem::path& path) {
    std::ifstream file{path};
    std::ostringstream text;
    text << file.rdbuf();
    return text.str();
}

// A disk that is full after some bytes stands for a power cut: the file is whole, the old one or the new one.
TEST(Overlay, AFileIsWrittenWholeOrNotAtAll) {
    const std::filesystem::path folder =
        std::filesystem::temp_directory_path() / ("overlay" + std::to_string(getpid()));
    std::filesystem::create_directory(folder);
    const std::string path = (folder / "player.toml").string(), old(5000, 'o'), next(9000, 'n');
    std::string why;
    ASSERT_TRUE(write_file_whole(path, old, why)) << why;
#if !defined(_WIN32)  // it has no such limit
    rlimit before{};
    ASSERT_EQ(getrlimit(RLIMIT_FSIZE, &before), 0);
    const auto ignored = std::signal(SIGXFSZ, SIG_IGN);
    for (const rlim_t room : {0U, 1U, 4096U, 8999U}) {
        rlimit small = before;
        small.rlim_cur = room;
        ASSERT_EQ(setrlimit(RLIMIT_FSIZE, &small), 0);
        const bool written = write_file_whole(path, next, why);
        ASSERT_EQ(setrlimit(RLIMIT_FSIZE, &before), 0);
        EXPECT_FALSE(written);
        EXPECT_EQ(why, path + ".new: File too large");
        EXPECT_TRUE(text_of(path) == old);
        EXPECT_FALSE(std::filesystem::exists(path + ".new")) << "nothing is left over";
    }
    std::signal(SIGXFSZ, ignored);
#endif
    std::ofstream{path + ".new"} << "half of it";  // what a power cut leaves
    EXPECT_TRUE(text_of(path) == old);
    EXPECT_TRUE(write_file_whole(path, next, why)) << why;
    EXPECT_TRUE(text_of(path) == next);
    EXPECT_FALSE(write_file_whole((folder / "no" / "x.toml").string(), next, why));
    EXPECT_NE(why.find("No such file"), std::string::npos) << why;
    std::filesystem::remove_all(folder);
}

// ---- files

class Files : public testing::Test {
protected:
    static constexpr const char* head = "format = \"cursorum-profile\"\nversion = 1\n";
    static constexpr const char* over_head = "format = \"cursorum-overlay\"\nversion = 1\n";
    static constexpr const char* quay =
        "[mode.crane.action.lock]\nkind = \"button\"\nbind = [\"Space\"]\n"
        "[mode.crane.action.horn]\nkind = \"button\"\nbind = [\"KeyH\"]\n";
    static constexpr const char* slow = "[mode.crane.action.slow]\nkind = \"button\"\nbind = [\"Shift\"]\n";

    void SetUp() override {
        folder_ = std::filesystem::temp_directory_path() / ("watch" + std::to_string(getpid()));
        std::filesystem::create_directory(folder_);
    }
    void TearDown() override { std::filesystem::remove_all(folder_); }

    static void write(const std::string& to, const std::string& text) {
        std::string why;
        ASSERT_TRUE(write_file_whole(to, text, why)) << why;
    }
    bool poll() { return watch.poll(player, why); }

    std::filesystem::path folder_;
    const std::string file =
                          (std::filesystem::temp_directory_path() / ("watch" + std::to_string(getpid())) / "quay.toml")
                              .string(),
                      over = file + ".over";
    PlayerProfile player;
    ProfileWatch watch{file, over};
    std::string why;
};

TEST_F(Files, GiveWhatChangedAndSayWhatIsBroken) {
    EXPECT_FALSE(poll());
    EXPECT_EQ(why, file + ": cannot be read: No such file or directory");
    write(file, std::string{head} + quay);
    ASSERT_TRUE(poll()) << why;
    EXPECT_FALSE(poll()) << "nothing changed";
    write(over, std::string{over_head} + "[mode.crane.action.lock]\nbind = [\"KeyG\"]\n[mode.x]\n");
    ASSERT_TRUE(poll()) << why;
    EXPECT_EQ(bindings_of(player, "lock"), "KeyG");
    EXPECT_EQ(player.dropped().size(), 1U);
    write(file, std::string{head} + "[mode.m\n");
    EXPECT_FALSE(poll());
    EXPECT_NE(why.find(file + ":3: found"), std::string::npos) << why;
    EXPECT_FALSE(poll());
    EXPECT_EQ(why, "") << "said once";
    write(file, std::string{head} + quay + slow);
    EXPECT_TRUE(poll()) << why;
    EXPECT_EQ(bindings_of(player, "lock"), "KeyG");
    write(file, "");
    EXPECT_FALSE(poll());
    EXPECT_NE(why.find(file + ":"), why.npos) << why;
    EXPECT_NE(why.find("expected"), why.npos) << "it is not missing: " << why;
    std::filesystem::remove(file);
    EXPECT_FALSE(poll());
    EXPECT_EQ(why, file + ": cannot be read: No such file or directory");
    EXPECT_EQ(bindings_of(player, "lock"), "KeyG");
}

TEST_F(Files, OfAnOverlayThatIsGoneOrNoFile) {
    write(file, std::string{head} + quay);
    write(over, std::string{over_head} + "[mode.crane.action.lock]\nbind = [\"KeyG\"]\n[mode.x]\n");
    ASSERT_TRUE(poll());
    std::filesystem::remove(over);
    EXPECT_TRUE(poll());
    EXPECT_EQ(why, "");
    EXPECT_EQ(bindings_of(player, "lock"), "Space");
    EXPECT_EQ(player.dropped().size(), 0U);
    std::filesystem::create_directory(over);
    EXPECT_FALSE(poll());
    EXPECT_EQ(why, over + ": found a folder; expected a file");
    EXPECT_FALSE(poll());
    EXPECT_EQ(why, "");
    std::filesystem::remove(over);
    write(over, "x = 3\n");
    EXPECT_FALSE(poll());
    EXPECT_TRUE(why.starts_with(over + ":1: found ")) << why;
}

// The binding screen is open while the game's profile is edited; no number of one profile means anything in another.
TEST_F(Files, ABindingScreenBindsTheRightActionAfterAReload) {
    write(file, std::string{head} + slow + quay);
    ASSERT_TRUE(poll()) << why;
    ActionReader actions{player.profile()};
    const ButtonAction lock = *actions.find_button("lock"), horn = *actions.find_button("horn");
    ASSERT_TRUE(actions.open(*actions.find_mode("crane")));
    Timeline timeline;
    Sampler sampler{timeline, {.start = Time{}}};
    std::int64_t now = 0;
    const auto tap = [&](Button key) {
        timeline.desk().button(key, true, Time{Duration{now += 10}});
        timeline.desk().button(key, false, Time{Duration{now += 10}});
        actions.read(sampler.advance(Time{Duration{now += 10}}));
    };
    tap(controls::Space);
    EXPECT_EQ(actions[lock].press_count(), 1U);
    write(file, std::string{head} + quay);  // slow is gone, and all numbers with it
    ASSERT_TRUE(poll());
    ASSERT_TRUE(actions.rebind(player.profile(), &why)) << why;
    ASSERT_TRUE(player.bind("crane.lock", 0, button(controls::KeyB), Settle::swap, &why)) << why;
    ASSERT_TRUE(actions.rebind(player.profile(), &why)) << why;
    write(over, player.overlay());
    EXPECT_EQ(player.overlay(), std::string{over_head} + "\n[mode.crane.action.lock]\nbind = [\"KeyB\"]\n")
        << "what the player did not change is not frozen";
    EXPECT_FALSE(poll()) << "its own file is no news";
    tap(controls::KeyB);
    EXPECT_EQ(actions[lock].press_count(), 1U);
    EXPECT_EQ(actions[horn].press_count(), 0U);
    const ButtonAction of_other = *player.profile().find_button("lock");
    EXPECT_EQ(of_other.number, 0U);
    EXPECT_EQ(actions[of_other].press_count(), 0U) << "of another numbering";
    EXPECT_EQ(actions.counters().foreign, 1U);
    write(file, std::string{head} + quay + slow);
    ASSERT_TRUE(poll());
    EXPECT_EQ(bindings_of(player, "lock"), "KeyB") << "and the player's change stays";
    EXPECT_TRUE(player.undo() == false);
}

TEST_F(Files, WhatNobodyWroteStaysWhenTheProfileChanges) {
    write(file, std::string{head} + quay + slow);
    write(over, std::string{over_head} + "[mode.crane.action.slow]\nbind = [\"KeyS\"]\n");
    ASSERT_TRUE(poll());
    write(file, std::string{head} + quay);
    ASSERT_TRUE(poll());
    EXPECT_EQ(player.dropped().size(), 1U);
    write(file, std::string{head} + slow + quay);
    ASSERT_TRUE(poll());
    EXPECT_EQ(bindings_of(player, "slow"), "KeyS") << "it is back, as the file has it";
    ASSERT_TRUE(player.bind("horn", 0, button(controls::KeyN), Settle::refuse));
    write(file, std::string{head} + quay);
    ASSERT_TRUE(poll());
    EXPECT_EQ(bindings_of(player, "horn"), "KeyN");
}

}  // namespace
