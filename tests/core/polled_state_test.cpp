// Keys, mice and pads that are polled.

#include <gtest/gtest.h>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/polled_state.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/pads.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;
using test::edges_text;
using test::pad;
using test::Pads;
using test::text;

TEST(PolledStates, HealAndDoubleNothingBesideEvents) {
    Pads p;
    PolledPad state;
    state.down = {PadSouth};
    state.left = {1, 0};
    EXPECT_EQ(post(p.inlet, pad, PolledPad{}, at(1)), Outcome::state_adopted);
    p.inlet.button(pad, PadSouth, true, at(5));  // the event, and then the poll that says the same
    EXPECT_EQ(post(p.inlet, pad, state, at(6)), Outcome::state_taken);
    EXPECT_EQ(text(p.cut(10)[PadSouth].figures()), "press 1000 5 5");
    EXPECT_EQ(text(p.sampler.frame()[PadStickLeftRight].figures()), "press 1000 4 4");
    state.down = {PadNorth};
    post(p.inlet, pad, state, at(15));  // the release was never reported
    EXPECT_EQ(edges_text(p.cut(20)), "15 3 PadSouth release; 15 3 PadNorth press");
    PolledMouse mouse{.down = {MouseLeft}, .x = 10, .y = 10};
    post(p.inlet, DeviceId{2}, mouse, at(25));
    mouse = {.down = {}, .x = 14, .y = 7};
    post(p.inlet, DeviceId{2}, mouse, at(26));
    const Frame& frame = p.cut(30);
    EXPECT_EQ(frame.pointer().motion(), (Distance{4, -3}));
    EXPECT_EQ(text(frame[MouseLeft].figures()), "blip 0110 1 1") << "the mouse's first state is adopted";
}

TEST(PolledStates, KeysFromBitsAndBytesByAnyNumbering) {
    for (unsigned seed = 1; seed < 300; ++seed) {
        std::array<std::uint8_t, 256> bytes{};
        std::array<std::uint8_t, 32> bits{};
        ButtonSet by_usage, by_code;
        std::uint64_t state = seed;
        for (unsigned key = 0; key < 256; ++key) {
            state = state * 6364136223846793005ULL + 1442695040888963407ULL;
            if (state >> 60 != 0) {
                bytes[key] = static_cast<std::uint8_t>(state >> 40 & 0x7F);  // arbitrary values in the other bits
                continue;
            }
            bytes[key] = 0x80;
            bits[key / 8] = static_cast<std::uint8_t>(bits[key / 8] | 1U << key % 8);
            const Button usage = button_of_hid_usage(0x07, key), code = button_of_linux_code(key);
            if (can_be_posted(usage)) by_usage.insert(usage);
            if (can_be_posted(code)) by_code.insert(code);
        }
        EXPECT_EQ(keys_from_bits(bits), by_usage) << seed;
        EXPECT_EQ(keys_from_bytes(bytes, 0x80), by_usage) << seed;
        EXPECT_EQ(keys_from_bits(bits, linux_numbering()), by_code) << seed;
        EXPECT_EQ(keys_from_bytes(bytes, 0x80, linux_numbering()), by_code) << seed;
    }
}

}  // namespace
