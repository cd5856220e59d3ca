// frames --show, devices and the example of a whole desk, on the demo data and on bad use.

#include <gtest/gtest.h>

#include <algorithm>
#include <string>
#include <tuple>

#include "support/run_command.hpp"

namespace {

using test::read_file;
using test::run_command;
using test::write_file;

const std::string demo = CURSORUM_SOURCE_DIR "/demo/two-operators.jsonl";

TEST(TwoOperators, TheFileIsWhatItsMakerWrites) {
    EXPECT_TRUE(run_command(CURSORUM_TWO_OPERATORS_PATH).out == read_file(demo)) << "run make_two_operators again";
    EXPECT_EQ(run_command("/usr/bin/python3 " CURSORUM_SOURCE_DIR "/tests/tool/check_schema.py " CURSORUM_SOURCE_DIR
                          "/docs/recording.schema.json " +
                          demo)
                  .out,
              "");
}

TEST(FramesCommand, TellsEveryPartInEveryFormat) {
    for (
        const auto& [arguments, line] : {
            std::tuple{"--format csv --show axes", "\n30,500000000,516666666,3,PadStickLeftX,1\n"},
            {"--format csv --show axes", "frame,t0,t1,device,control,value\n"},
            {"--format csv --show pointer",
             "\n480,8000000000,8016666666,327.2734375,202.078125,7.2734375,2.078125,0,0,,,,,,,,\n"},
            {"--format csv --show drags",
             "\n617,10283333333,10300000000,MouseLeft,dropped,9800000000,407.5,225,539.921875,300\n"},
            {"--show drags", "MouseLeft        cancel   a drag from 560.031, 340.047 to "},
            {"--format csv --show samples",
             "\n480,8000000000,8016666666,8000125000,2,0.0546875,0.015625,320.0546875,200.015625\n"},
            {"--format csv --show clicks", ",9250000000,2,MouseLeft,9180000000,2,0,407.5,225,407.5,225\n"},
            {"--format csv --show devices", "\n335,5583333333,5600000000,5600000000,4,disconnect,gamepad,east pad\n"},
            {"--format csv --show sticks", "\n30,500000000,516666666,3,PadStickLeft,1,0\n"},
            {"--format csv --show edges", "\n305,5083333333,5100000000,5100000000,4,PadShoulderRight,press\n"},
            {"--format jsonl --show clicks", R"("controls":[{"control":"MouseLeft")"},
            {"--format jsonl --show clicks",
             R"("clicks":[{"t":8480000000,"device":2,"control":"MouseLeft","pressed":8400000000,"count":1,"farthest":0,"from_x":407.5,"from_y":225,"to_x":407.5,"to_y":225}])"},
            {"--format jsonl",
             R"("axes":[{"device":4,"control":"PadStickLeftX","value":0.0625},{"device":4,"control":"PadStickLeftY","value":-0.046875}])"},
            {"--format jsonl",
             R"("pointer":{"x":327.2734375,"y":202.078125,"dx":7.2734375,"dy":2.078125,"wheel_x":0,"wheel_y":0})"},
            {"--show devices", "device 4         disconnect gamepad \"east pad\""},
            {"--control PadStickRightDown", "PadStickRightDown press 1 "},
            // It hovers at its threshold, and is pressed once.
            {"--control PadPullRight", "747 frames at 60 per second; 2 shown."},
            {"--control PadPullRight", "247 4.133333 PadPullRight press 1 "},
            {"--control PadPullRight --format csv", "\n287,4783333333,4800000000,PadPullRight,release,0,1,0,0,0,0,"},
        }) {
        const auto result = run_command("cursorum frames " + demo + " " + arguments);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        EXPECT_NE(test::squeezed(result.out).find(test::squeezed(line)), std::string::npos) << arguments << "\nhas no\n"
                                                                                            << line;
    }
    EXPECT_EQ(run_command("cursorum frames --show clicks " + demo).exit_code, 0) << "the file may stand last";
}

TEST(FramesCommand, ContactsAndPointerLinesAreRead) {
    const std::string file = write_file("contacts.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":5,"kind":"touch","name":"panel","first_contact_points":true}
{"t":1000,"type":"contact","device":5,"contact":7,"phase":"begin","x":10,"y":20,"pressure":0.5}
{"t":2000,"type":"pointer","device":5,"inside":true,"locked":false}
{"t":3000,"type":"motion","device":5,"raw_dx":3,"raw_dy":4}
{"t":4000,"type":"motion","device":5,"x":500,"y":20,"warp":true}
{"t":5000,"type":"contact","device":5,"contact":7,"phase":"end","x":11,"y":20}
{"t":6000,"type":"rumble","device":3,"strong":0.8,"weak":0.2,"for":150000000}
)");
    const auto result = run_command("cursorum frames " + file + " --strict --format jsonl");
    EXPECT_EQ(result.exit_code, 0) << result.err;
    EXPECT_NE(
        result.out.find(R"("pointer":{"x":11,"y":20,"dx":-489,"dy":0,"wheel_x":0,"wheel_y":0,"raw_dx":3,"raw_dy":4})"),
        std::string::npos)
        << result.out;
    EXPECT_NE(result.out.find(R"("contacts":[{"device":5,"contact":7,"state":"ended","x":11,"y":20,"pressure":1}])"),
              std::string::npos)
        << result.out;
    EXPECT_EQ(run_command("/usr/bin/python3 " CURSORUM_SOURCE_DIR "/tests/tool/check_schema.py " CURSORUM_SOURCE_DIR
                          "/docs/recording.schema.json " +
                          file)
                  .out,
              "");
}

TEST(FramesCommand, TellsThePointersPlaceAndLocks) {
    const std::string file = write_file("places.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":2,"kind":"mouse","name":"mouse"}
{"t":1000,"type":"motion","device":2,"x":10,"y":20}
{"t":1000,"type":"wheel","device":2,"dx":0,"dy":-1}
{"t":2000,"type":"locks","on":["CapsLock"]}
{"t":3000,"type":"frame"}
{"t":4000,"type":"pointer","device":2,"inside":false}
{"t":4000,"type":"locks","on":[]}
{"t":5000,"type":"frame"}
{"t":6000,"type":"pointer","device":2,"inside":true,"locked":true}
{"t":7000,"type":"frame"}
)");
    for (const auto& [arguments, line] : {
             std::tuple{"", "pointer          moved    to 10, 20  by 0, 0  wheel 0, -1  steps 0, -1\n"},
             {"", "CapsLock         on "},
             {"", "pointer          left     at 10, 20\n"},
             {"", "CapsLock         off "},
             {"", "pointer          locked   at 10, 20  entered\n"},
             {"--format jsonl --show all", R"("wheel_x":0,"wheel_y":-1,"steps_x":0,"steps_y":-1})"},
             {"--format jsonl --show all", R"("locks":[{"control":"CapsLock","on":true}])"},
             {"--format jsonl", R"("dx":0,"dy":0,"wheel_x":0,"wheel_y":0,"inside":false})"},
             {"--format jsonl", R"("wheel_y":0,"locked":true})"},
             {"--format csv --show locks", "\n1,3000,5000,CapsLock,false\n"},
         }) {
        const auto result = run_command("cursorum frames " + file + " " + arguments);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        EXPECT_NE(test::squeezed(result.out).find(test::squeezed(line)), std::string::npos) << result.out << "has no\n"
                                                                                            << line;
    }
}

TEST(FramesCommand, WhatIsHeldIsInEveryFrame) {
    const std::string file = write_file("held.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":3,"kind":"gamepad","name":"pad"}
{"t":1000000,"type":"axis","device":3,"control":"PadStickLeftX","value":0.3}
{"t":1000000,"type":"locks","on":["NumLock"]}
{"t":100000000,"type":"button","device":3,"control":"PadSouth","down":true}
)");
    for (const char* part : {"axes", "sticks", "locks"}) {
        const auto result = run_command("cursorum frames " + file + " --format csv --show " + part);
        EXPECT_EQ(std::count(result.out.begin(), result.out.end(), '\n'), 1 + 6) << part << "\n" << result.out;
    }
}

TEST(FramesCommand, TellsSeats) {
    const std::string seats = " --seats 2 --offer PadSouth ";
    for (const auto& [arguments, line] : {
             std::tuple{"", "frame ends at s seat control"},
             {"", "167 2.800000 seat 0 taken at 2.800 s, device 3, gamepad"},
             {"", "seat 1 away at 5.600 s, device 4, gamepad \"east pad\"\n"},
             {"", "seat 1 back at 7.300 s"},
             {"", "173 2.900000 0 PadSouth release "},
             {"--format csv", "\n173,2883333333,2900000000,0,PadSouth,release,0,1,"},
             {"--format csv --show seats", "\n335,5583333333,5600000000,5600000000,1,away,4\n"},
             {"--format jsonl", R"({"seat":1,"control":"PadShoulderRight","state":"press")"},
             {"--format jsonl", R"("seats":[{"t":2850000000,"seat":1,"change":"taken","device":4}])"},
         }) {
        const auto result = run_command("cursorum frames " + demo + seats + arguments);
        EXPECT_EQ(result.exit_code, 0) << result.err;
        EXPECT_NE(test::squeezed(result.out).find(test::squeezed(line)), std::string::npos) << result.out << "has no\n"
                                                                                            << line;
    }
    const std::string halves = run_command("cursorum frames " + demo + " --seats 2 --offer KeyW,ArrowUp --halves").out;
    EXPECT_NE(test::squeezed(halves).find("6.116666 1 ArrowUp "), std::string::npos) << halves;
    EXPECT_NE(test::squeezed(halves).find("6.700000 0 KeyW release "), std::string::npos) << halves;
    for (const auto& [arguments, error] : {
             std::tuple{"--seats 9", "--seats: found 9; expected 1 to 8"},
             {"--seats 0", "--seats: found 0; expected 1 to 8"},
             {"--offer PadSouth", "--offer requires --seats"},
             {"--seats 2 --per-device", "--per-device"},
             {"--seats 2 --offer PadSuoth", "did you mean PadSouth?"},
             {"--show seats", "--show seats: of how many? Give --seats COUNT"},
         }) {
        const auto result = run_command("cursorum frames " + demo + " " + arguments);
        EXPECT_EQ(result.exit_code, 2) << arguments;
        EXPECT_NE(result.err.find(error), std::string::npos) << result.err;
    }
}

TEST(FramesCommand, BadLinesOfTheDeskAreTold) {
    for (const auto& [line, error] : {
             std::tuple{R"("contact","device":5,"contact":1,"phase":"press","x":0,"y":0)",
                        "expected \"begin\", \"move\", \"end\" or \"cancel\""},
             {R"("contact","device":5,"contact":-1,"phase":"end","x":0,"y":0)", "a contact's number"},
             {R"("pointer","device":5)", "neither \"inside\" nor \"locked\""},
             {R"("axis","device":3,"control":"PadStickLeft","value":0)", "did you mean PadStickLeft"},
             {R"("button","device":3,"control":"PadStickLeftUp","down":true)", "a stick's directions come of its axes"},
             {R"("connect","device":3,"kind":"gamepad","vendor":70000)", "a USB number, 0 to 65535"},
             {R"("connect","device":3,"kind":"gamepad","axes":["PadSouth"])", "which is a button"},
             {R"("rumble","device":3,"strong":1,"weak":0,"for":-5)", "whole nanoseconds, 0 to 65000000000"},
         }) {
        const std::string file = write_file(
            "bad.jsonl", "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n{\"t\":0,\"type\":" +
                             std::string{line} + "}\n");
        const auto result = run_command("cursorum frames " + file);
        EXPECT_EQ(result.exit_code, 2) << line;
        EXPECT_NE(result.err.find(":2: found"), std::string::npos) << result.err;
        EXPECT_NE(result.err.find(error), std::string::npos) << line << "\n" << result.err;
    }
}

TEST(DevicesCommand, TellsWhatTookPart) {
    const auto result = run_command("cursorum devices " + demo);
    EXPECT_EQ(result.exit_code, 0);
    for (const char* line :
         {"device 2  mouse, fast mouse\n", "  motion     up to 8000 per second\n", "  usb        fff1:0002\n",
          "  connected  0.000 s to 5.600 s, then it disconnected\n  connected  7.300 s to the end, 12.440 s\n",
          "  used       PadPullRight from 0 to 0.875, 30 values\n", "  flags      marks system repeats\n"})
        EXPECT_NE(test::squeezed(result.out).find(test::squeezed(line)), std::string::npos) << line << "\n"
                                                                                            << result.out;
    EXPECT_NE(
        run_command("cursorum devices " + demo + " --format csv").out.find("4,gamepad,east pad,65521,2,0,5600000000,"),
        std::string::npos);
    std::string buttons = "\"KeyA\"";
    for (char letter = 'B'; letter <= 'Z'; ++letter) {
        buttons += ",\"Key";
        buttons += letter;
        buttons += '"';
    }
    const std::string many = write_file("many.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"connect","device":1,"kind":"keyboard","name":"keys","buttons":[)" +
                                                          buttons + "]}\n");
    EXPECT_NE(run_command("cursorum devices " + many).out.find(" KeyQ\n             KeyR "), std::string::npos)
        << run_command("cursorum devices " + many).out;
    const std::string stray = write_file("stray.jsonl", R"({"type":"recording","format":"cursorum","version":1}
{"t":0,"type":"button","device":9,"control":"KeyW","down":true}
)");
    EXPECT_NE(run_command("cursorum devices " + stray).out.find("device 9  never connected\n  events     1, all stray"),
              std::string::npos);
    const std::string none =
        write_file("none.jsonl", "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n");
    EXPECT_EQ(run_command("cursorum devices " + none).exit_code, 1);
    EXPECT_EQ(run_command("cursorum devices /nowhere").exit_code, 2);
}

TEST(DevicesCommand, RestProposesWithTheFiguresBehindIt) {
    const auto result = run_command("cursorum devices --rest " + demo + " --device 4");
    EXPECT_EQ(result.exit_code, 0);
    for (const char* line :
         {"device 4  east pad\n", "    proposed   centre 0.0547, -0.0469  dead zone 0.060  x -0.8984 to 1.0000",
          "    unknown    never pushed to the end right, up, down: taken to be 1\n"})
        EXPECT_NE(test::squeezed(result.out).find(test::squeezed(line)), std::string::npos) << line << "\n"
                                                                                            << result.out;
    EXPECT_EQ(result.out.find("west pad"), std::string::npos);
    EXPECT_NE(run_command("cursorum devices --rest " + demo + " --format csv").out.find("\n4,PadStickLeft,"),
              std::string::npos);
    const std::string shaping =
        write_file("shaping.jsonl", run_command("cursorum devices --rest " + demo + " --device 4 --format jsonl").out);
    EXPECT_NE(read_file(shaping).find(R"({"t":0,"type":"shaping","device":4,"sticks":{"PadStickLeft":{"x":{"centre":)"),
              std::string::npos);
    const std::string frames = "cursorum frames " + demo + " --show sticks --format csv --rate 10 ";
    const auto shaped =
        run_command("cursorum frames " + demo + " --show sticks --from 1.5s --to 1.52s --shaping " + shaping);
    EXPECT_NE(test::squeezed(shaped.out).find("shaped -0.378, 0.129, device 4"), std::string::npos) << shaped.out;
    const std::string odd =
        write_file("odd.jsonl",
                   "{\"type\":\"recording\",\"format\":\"cursorum\",\"version\":1}\n"
                   "{\"t\":0,\"type\":\"shaping\",\"device\":9,\"sticks\":{\"PadStickLeft\":{\"dead_zone\":0.2}}}\n");
    EXPECT_NE(run_command(frames + "--shaping " + odd).err.find("has a shaping for device 9, which never connects"),
              std::string::npos);
    std::string bad_shaping = read_file(odd);
    bad_shaping.replace(bad_shaping.find("0.2}"), 3, "2.5");
    const auto refused = run_command(frames + "--shaping " + write_file("bad.jsonl", bad_shaping));
    EXPECT_EQ(refused.exit_code, 2);
    EXPECT_NE(refused.err.find("bad.jsonl:2: found a shaping that no device can have"), std::string::npos)
        << refused.err;
    EXPECT_NE(run_command(frames + "--shaping " + demo).err.find("found no shaping line"), std::string::npos);
    for (const char* bad : {"--device 4", "--format jsonl"})
        EXPECT_NE(run_command("cursorum devices " + demo + " " + bad).err.find("goes with --rest"), std::string::npos);
    EXPECT_EQ(run_command("cursorum devices --rest --source evdev").exit_code, 2);
    EXPECT_EQ(run_command("cursorum devices --rest " + demo + " --device 1").exit_code, 1);
    EXPECT_EQ(run_command("cursorum devices --rest " + demo + " --device x").exit_code, 2);
    EXPECT_EQ(run_command("cursorum devices --rest " CURSORUM_SOURCE_DIR "/demo/quay-shift.jsonl").exit_code, 1);
}

TEST(FramesCommand, MistypedPartsHaveANearOne) {
    const auto result = run_command("cursorum frames " + demo + " --show clcks --format csv");
    EXPECT_EQ(result.exit_code, 2);
    EXPECT_NE((run_command("cursorum frames --show=clcks " + demo).err).find("did you mean clicks?"),
              std::string::npos);
    EXPECT_EQ(run_command("cursorum frames " + demo + " --show clicks,axes --format csv").exit_code, 2);
}

TEST(QuayDesk, TellsWhatEachOperatorDid) {
    const auto result = run_command(CURSORUM_DESK_PATH " " + demo);
    EXPECT_EQ(result.exit_code, 0) << result.err;
    for (const char* line :
         {"5.600 s  east's pad is gone", "7.300 s  east's pad is back", "BX 101 picked, twice",
          "BX 207 slid off: not picked", "drag called off", "west  crane +3.558 m, trolley +3.670 m"})
        EXPECT_NE(test::squeezed(result.out).find(test::squeezed(line)), std::string::npos) << line << "\n"
                                                                                            << result.out;
    EXPECT_EQ(run_command(CURSORUM_DESK_PATH).exit_code, 2);
}

}  // namespace
