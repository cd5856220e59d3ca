// The quay loop ends in the same state at 30, 60 and 144 pictures per second.

#include <gtest/gtest.h>

#include <string>

#include "support/run_command.hpp"

namespace {

using test::run_command;

const std::string loop = CURSORUM_EXAMPLE_PATH " ";
const std::string recording = CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl ";
const std::string profile = CURSORUM_SOURCE_DIR "/demo/quay.toml ";
const std::string demo = recording + profile;

TEST(QuayLoop, EndsTheSameAtEveryPictureRate) {
    const auto thirty = run_command(loop + demo + "30");
    EXPECT_EQ(thirty.exit_code, 0) << thirty.err;
    EXPECT_NE(thirty.out.find("twist-locks locked"), std::string::npos);
    EXPECT_NE(thirty.out.find("crane   "), std::string::npos);
    EXPECT_EQ(run_command(loop + demo + "60").out, thirty.out);
    EXPECT_EQ(run_command(loop + demo + "144").out, thirty.out);
}

TEST(QuayLoop, PicturesSeeEveryPressOnceToo) {
    for (const char* rate : {"30", "60", "144"})
        EXPECT_NE(run_command(loop + demo + rate).err.find("the pictures saw 34 presses"), std::string::npos) << rate;
}

// A menu that is opened and used within one frame, a binding screen, and every gesture of the demo's profile.
TEST(QuayMenu, ChangesControlsAndSavesThem) {
    const std::string player =
        test::write_file("player.toml", "format = \"cursorum-overlay\"\nversion = 1\n[mode.crane.action.gone]\n");
    const std::string command = CURSORUM_MENU_PATH " " CURSORUM_SOURCE_DIR "/demo/quay-menu.toml " CURSORUM_SOURCE_DIR
                                                   "/demo/quay-menu.jsonl " +
                                player;
    const auto first = run_command(command);
    EXPECT_EQ(first.exit_code, 0) << first.err;
    EXPECT_NE(first.err.find("left out: "), std::string::npos) << first.err;
    for (const char* line :
         {"   0.700 s  the spreader locks\n",
          "   2.500 s  the horn sounds\n   3.300 s  one step\n   3.583 s  one step\n",
          "   4.300 s  a box is marked\n   5.100 s  all marks are gone\n   5.750 s  full power\n",
          "   6.717 s  -- menu: the crane stands still\n   6.717 s     52 cm along the quay\n",
          "   9.300 s     press a control for lock", "  10.083 s     lock: KeyB, PadSouth\n",
          "  12.000 s     PadSouth was for crane.lock\n  12.000 s     horn: PadSouth, PadThumbLeft\n",
          "  12.800 s  -- back at the crane\n  13.400 s  the spreader locks\n  13.900 s  the horn sounds\n",
          "[mode.crane.action.lock]\nbind = [\"KeyB\", \"KeyH\"]\n"})
        EXPECT_NE(first.out.find(line), std::string::npos) << line << "\nis not in\n" << first.out;
    const auto second = run_command(command);
    EXPECT_EQ(second.err, "") << "what was left out is not in the new file";
    EXPECT_NE(second.out.find("> lock: KeyB, KeyH\n"), std::string::npos) << second.out;
    EXPECT_EQ(run_command(CURSORUM_MENU_PATH " /nowhere.toml x").exit_code, 2);
}

TEST(QuayThreads, EndTheSameWhoeverRunsWhen) {
    const std::string expected = run_command(loop + demo + "60").out;
    for (int round = 0; round < 2; ++round) {
        const auto threads = run_command(CURSORUM_THREADS_PATH " " + demo);
        EXPECT_EQ(threads.exit_code, 0) << threads.err;
        EXPECT_EQ(threads.out, expected);
        EXPECT_NE(threads.err.find("saw 34 presses"), std::string::npos) << threads.err;
        EXPECT_NE(threads.err.find(" 0 events late"), std::string::npos) << threads.err;
    }
    EXPECT_EQ(run_command(CURSORUM_THREADS_PATH).exit_code, 2);
}

TEST(QuayPeers, OverALossyLinkBothEndEqual) {
    for (int seed = 1; seed <= 12; ++seed) {
        const auto peers = run_command(CURSORUM_PEERS_PATH " " + std::to_string(seed));
        EXPECT_EQ(peers.exit_code, 0) << peers.out;
        EXPECT_NE(peers.out.find("all equal"), std::string::npos) << peers.out;
        EXPECT_EQ(peers.out.find("peer 1    trolleys +0.000000"), std::string::npos) << "nobody played";
        EXPECT_EQ(peers.out.find("went back 0 times", peers.out.find("peer 1")),
                  peers.out.find("went back 0 times", peers.out.find("reference")))
            << "the link was too good\n"
            << peers.out;
    }
    EXPECT_EQ(run_command(CURSORUM_PEERS_PATH " 1 0").exit_code, 2);
}

// Each of the three layers shows its own fault, and the guide shows what is printed.
TEST(OtherLayers, ShowTheirFaults) {
    const std::string layers = CURSORUM_LAYERS_PATH " ";
    const auto result = run_command(layers + recording);
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(test::read_file(CURSORUM_SOURCE_DIR "/docs/guide/from-hand-written-code.md").find("quay-shift.jsonl\n" + result.out),
              std::string::npos)
        << result.out;
    std::size_t at = 0;
    for (const char* line :
         {"a flag", "The same press was seen again", "levels", " lost ", "pressed and released between two frames",
          " stuck ", "The focus was lost", "a callback", "The system's key repeat was taken for a press"})
        EXPECT_NE(at = result.out.find(line, at), std::string::npos) << line;
    EXPECT_EQ(run_command(layers).exit_code, 2);
    EXPECT_EQ(run_command(layers + "/nowhere").exit_code, 2);

    // Written into a recording, its beliefs are compared as they were live, whole and in a part; and drawn.
    const std::string beliefs = test::temporary_path("beliefs.jsonl"),
                      part = test::temporary_path("beliefs-part.jsonl");
    ASSERT_EQ(run_command(layers + recording + beliefs).exit_code, 0);
    const auto all = run_command("cursorum summary " + beliefs);
    for (const char* line :
         {"2371 frames: wrong 16 times", "\n  8 lost  ", "\n  5 stuck  ", "\n  2 made up  ", "\n  1 doubled  "})
        EXPECT_NE(all.out.find(line), std::string::npos) << line << all.out << all.err;
    EXPECT_NE(run_command("cursorum summary --rate 24 " + beliefs).out.find("without --rate"), std::string::npos);
    ASSERT_EQ(run_command("cursorum record " + beliefs + " --from 14s --to 19s -o " + part).exit_code, 0);
    const auto some = run_command("cursorum summary --lost --format jsonl " + part);
    EXPECT_NE(some.out.find(R"("beliefs":301,)"), std::string::npos) << some.out << some.err;
    EXPECT_NE(some.out.find(R"("of":"KeyS","wrong":"stuck")"), std::string::npos);
    const std::string page = test::temporary_path("beliefs.html");
    ASSERT_EQ(run_command("cursorum draw " + beliefs + " -o " + page).exit_code, 0);
    EXPECT_NE(test::read_file(page).find("KeyW: the other layer lost a press."), std::string::npos);
}

TEST(QuayLoop, BadUseAndBadInput) {
    EXPECT_EQ(run_command(loop).exit_code, 2);
    EXPECT_EQ(run_command(loop + demo + "0").exit_code, 2);
    EXPECT_EQ(run_command(loop + "/nowhere " + profile).exit_code, 2);
    EXPECT_EQ(run_command(loop + recording + "/nowhere").exit_code, 2);
    EXPECT_EQ(run_command(loop + recording + recording).exit_code, 2);
}

}  // namespace
