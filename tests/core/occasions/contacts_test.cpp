// Contacts on touch surfaces.

#include <gtest/gtest.h>

#include <limits>
#include <string>

#include "cursorum/core/controls.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/script.hpp"

namespace {

using namespace cursorum;
using namespace cursorum::controls;
using test::at;
using test::text;

using enum ContactPhase;

TEST(Contacts, BeginMoveEndCancel) {
    test::check_rows(R"(
they begin, move and end : 1beg5:7,1,2 2beg5:8,5,5 |3contacts 4mve5:7,3,4 5end5:8,6,6 |8contacts : 7 began 1,2 down & 8 began 5,5 down; 7 3,4 down & 8 6,6 ended
no touch is too short : 6beg5:9,0,0 7end5:9,0,1 |8contacts 9mve5:9,1,1 |10contacts : 9 began 0,1 ended; -
an end was lost : 1beg5:7,3,4 |8 10beg5:7,9,9 |11contacts : 7 3,4 cancelled & 7 began 9,9 down
focus loss cancels : 1beg5:7,9,9 |8 12foc0 |13contacts,at |14contacts 15beg5:1,0,0 |16contacts : 7 9,9 cancelled | nowhere; -; -
)",
                     [](const std::string& script) {
                         return test::ScriptRun{{.start = Time{}}, {}}.run(script);
                     });
}

struct Surface {
    explicit Surface(bool points = false) {
        inlet.connect(DeviceId{5}, {.kind = DeviceKind::touch, .first_contact_points = points}, at(0));
    }
    Timeline timeline;
    Inlet& inlet = timeline.desk();
    Sampler sampler{timeline, {.start = at(0)}};

    Outcome touch(std::uint32_t id, ContactPhase phase, double x, double y, std::int64_t t, double pressure = 1) {
        return inlet.contact(DeviceId{5}, id, phase, x, y, pressure, at(t));
    }
};

TEST(Contacts, TheFirstMayActAsPointer) {
    Surface s{true};
    s.touch(1, begin, 10, 20, 1);
    s.touch(2, begin, 50, 50, 2);
    const Frame& frame = s.sampler.advance(at(3));
    EXPECT_EQ(frame.pointer().position(), (WindowPoint{10, 20}));
    EXPECT_EQ(frame.pointer().motion(), (Distance{0, 0})) << "it comes from nowhere";
    EXPECT_TRUE(frame[MouseLeft].pressed());
    s.touch(2, move, 60, 60, 4);
    s.touch(1, move, 11, 22, 5);
    s.touch(1, end, 11, 22, 6);
    s.sampler.advance(at(7));
    EXPECT_EQ(frame.pointer().motion(), (Distance{1, 2}));
    EXPECT_TRUE(frame.pointer().target({10, 20, 5, 5}).clicked());
    EXPECT_EQ(s.inlet.counters().events, 6U);
    EXPECT_EQ(s.sampler.counters().taken, 6U) << "a contact that points is one event";
    s.touch(3, begin, 0, 0, 8);  // the second contact is still there, but it does not point
    s.inlet.disconnect(DeviceId{5}, at(9));
    s.sampler.advance(at(10));
    EXPECT_EQ(text(frame[MouseLeft].figures()), "blip 1001 1 1");
    EXPECT_TRUE(frame.pointer().clicks().empty());
}

TEST(Contacts, MoreThanThereIsRoomForAreRefused) {
    Surface s;
    EXPECT_EQ(s.touch(0, move, 0, 0, 1), Outcome::stray_contact);
    for (std::uint32_t i = 0; i < contact_capacity; ++i) EXPECT_EQ(s.touch(i, begin, i, 0, i + 1), Outcome::taken);
    EXPECT_EQ(s.touch(0, begin, 0, 0, 99), Outcome::contact_restarted);
    EXPECT_EQ(s.touch(999, begin, 0, 0, 100), Outcome::refused_contacts);
    EXPECT_EQ(s.touch(0, move, std::numeric_limits<double>::infinity(), 0, 101), Outcome::refused_value);
    EXPECT_EQ(s.touch(0, move, 0, 0, 101, std::numeric_limits<double>::quiet_NaN()), Outcome::refused_value);
    EXPECT_EQ(s.inlet.counters().refused, 3U);
}

}  // namespace
