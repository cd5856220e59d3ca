#include "cursorum/core/key_layout.hpp"

#include <gtest/gtest.h>

#include <string>

#include "cursorum/core/controls.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;

TEST(KeyLayout, IsTheOneThatKeysAreNamedAfterUntilItIsAnother) {
    KeyLayout layout;
    unsigned count = 0;
    for (std::uint16_t number = 0; number < button_capacity; ++number) {
        const Button key{number};
        const std::string symbol{layout.symbol_of(key)}, name{name_of(key)};
        if (symbol.empty()) continue;
        ++count;
        EXPECT_TRUE(KeyLayout::is_writing_key(key));
        EXPECT_EQ(layout.key_of(symbol), key);
        const bool is_letter = name.starts_with("Key"), is_digit = name.starts_with("Digit");
        const std::string printed = is_letter ? std::string(1, static_cast<char>(symbol[0] - 32)) : symbol;
        EXPECT_TRUE(!(is_letter || is_digit) || name.ends_with(printed)) << name << " has " << symbol;
    }
    EXPECT_EQ(count, 26U + 10U + 12U);
    EXPECT_EQ(layout.key_of("Z"), KeyZ) << "in either case";
    EXPECT_EQ(layout.key_of(""), Button{});
    EXPECT_EQ(layout.key_of("\u00f6"), Button{});
    EXPECT_TRUE(layout.set(IntlBackslash, "\u00f6"));
    EXPECT_EQ(layout.key_of("\u00f6"), IntlBackslash);
    EXPECT_TRUE(layout.set(KeyZ, ""));
    EXPECT_EQ(layout.symbol_of(KeyZ), "");
    const KeyLayout before = layout;
    EXPECT_FALSE(layout.set(Enter, "x") || layout.set(Numpad1, "1") || layout.set({65535}, "x") ||
                 layout.set(KeyA, "12345678"));
    EXPECT_EQ(layout, before);
    EXPECT_EQ(KeyLayout::empty().key_of("a"), Button{});
}

}  // namespace
