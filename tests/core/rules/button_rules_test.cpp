// Every rule about buttons, as a row: a script, and KeyW in each of its frames.

#include <gtest/gtest.h>

#include <string>
#include <vector>

#include "support/script.hpp"

namespace {

using namespace cursorum;
using test::ScriptRun;

/// See check_rows(); what is expected is KeyW at each cut.
void check(const char* table, const Repeat& repeat = {}) {
    test::check_rows(
        table, [&](const std::string& script) { return ScriptRun{{.start = Time{}, .repeat = repeat}}.run(script); });
}

TEST(ButtonRules, TheStateTable) {
    check(R"(
idle : |10 |20 : idle 0000 0 0; idle 0000 0 0
a press, then a hold, then a release : 5+W |10 |20 25-W |30 |40 : press 1000 5 5; hold 0000 15 10; release 0100 20 5; idle 0000 0 0
a blip is down only between two cuts : 5+W 8-W |10 : blip 1100 3 3
two taps in one frame : 1+W 2-W 5+W 9-W |10 : blip 2200 4 5
a dip is up only between two cuts : 5+W |10 13-W 15+W |20 |30 : press 1000 5 5; dip 1100 5 8; hold 0000 15 10
a release and a blip : 5+W |10 12-W 14+W 15-W |20 : press 1000 5 5; release 1200 1 3
a tap and a press : 1+W 2-W 6+W |10 : press 2100 4 5
on the cut belongs to the frame that ends there : 10+W |10 20-W |20 : press 1000 0 0; release 0100 10 10
)");
}

TEST(ButtonRules, SystemRepeatsAndStrays) {
    check(R"(
up while up is stray : 5-W |10 : idle 0000 0 0
marked repeats are counted and no presses : 1+W 5~W 7~W |10 12~W |20 : press 1000 9 9 sys2; hold 0000 19 10 sys1
a device that does not mark, down while down is a system repeat : 1+2W 5+2W |10 : press 1000 9 9 sys1
a device that marks, down while down proves a lost release : 1+W |10 15+W |20 : press 1000 9 9; dip 1001 5 10
a marked repeat while up is an adopt and a system repeat : 5~W |10 15-W |20 : hold 0010 5 5 sys1; release 0100 10 5
the same on a device that does not mark : 5~2W |10 : hold 0010 5 5 sys1
an unknown device is stray : 5+4W |10 : idle 0000 0 0
a disconnected device is stray : 3dis1 5+W |10 : idle 0000 0 0
)");
}

TEST(ButtonRules, PolledStates) {
    check(R"(
differences of a polled state are presses and releases : 5sta1:WS |10 15sta1:S |20 : press 1000 5 5; release 0100 10 5
a polled state that says the same changes nothing : 5+W 7sta1:W |10 : press 1000 5 5
a polled state marked adopt : 5ado1:W |10 15ado1: |20 : hold 0010 5 5; cancel 0001 10 5
the first state after a connect is adopted : 1dis1 2con1 5sta1:W |10 15sta1: |20 : hold 0010 5 5; release 0100 10 5
whatever came between : 1dis1 2con1 3+W 4-W 5sta1:W |10 : press 1110 5 6
the first state after focus gain is adopted : 1foc0 2foc1 5sta1:W |10 : hold 0010 5 5
the first state after an interruption is adopted : 1int 5sta1:W |10 : hold 0010 5 5
only the first one : 1int 2sta1: 5sta1:W |10 : press 1000 5 5
adoption cancels what is no longer down : 5+W |10 11int 12+W 13sta1: |20 : press 1000 5 5; cancel 1002 1 2
a state without focus is ignored and uses up no adoption : 1foc0 2sta1:W 3foc1 5sta1:W |10 : hold 0010 5 5
)");
}

TEST(ButtonRules, Focus) {
    check(R"(
focus loss cancels : 1+W |10 15foc0 |20 |30 : press 1000 9 9; cancel 0001 14 5; idle 0000 0 0
without focus, events are ignored : 1foc0 2+W 3-W |10 15foc1 |20 : idle 0000 0 0; idle 0000 0 0
held across focus, adopted, released : 1+W 2foc0 5foc1 5sta1:W |10 15-W |20 : press 1011 5 6; release 0100 10 5
focus that changes nothing does nothing : 5+W 6foc1 |10 : press 1000 5 5
and re-arms no adoption : 5foc1 6sta1:W |10 : press 1000 4 4
a background device is exempt from focus : 1foc0 5+3W |10 15-3W |20 : press 1000 5 5; release 0100 10 5
focus loss leaves a background device alone : 5+3W 6foc0 |10 : press 1000 5 5
a background device's next state is not adopted on focus gain : 1foc0 2foc1 5sta3:W |10 : press 1000 5 5
within one instant order decides : 5foc0 5+W 5foc1 5+W |10 : press 1000 5 5
connect and disconnect are obeyed without focus : 1+3W 2foc0 5dis3 |10 : blip 1001 4 4
a repeat that moved to us with the focus adopts : 1foc0 2foc1 5~W 6~W |10 : hold 0010 5 5 sys2
)");
}

TEST(ButtonRules, ConnectDisconnectInterruption) {
    check(R"(
disconnect cancels : 1+W |10 15dis1 |20 : press 1000 9 9; cancel 0001 14 5
a reconnected device starts with everything up : 1+W 2dis1 3con1 5-W |10 : blip 1001 1 1
a reconnected device has the flags it now gives : 1dis3 2con3 3foc0 5+3W |10 : idle 0000 0 0
a second connect is stray : 1+W 5con1 |10 : press 1000 9 9
interruption cancels everything, background too : 1+3W |10 15int |20 : press 1000 9 9; cancel 0001 14 5
interruption leaves focus as it was : 1int 5+W |10 : press 1000 5 5
)");
}

TEST(ButtonRules, SeveralDevicesOneButton) {
    check(R"(
down when any device has it down : 1+W 3+2W 6-W |10 15-2W |20 : press 1000 9 9; release 0100 14 5
the other's press while one holds it changes nothing : 1+W |10 15+2W |20 : press 1000 9 9; hold 0000 19 10
a press while others only adopted is cancel and press : 1ado1:W |10 15+2W |20 25-2W |30 35-W |40 : hold 0010 9 9; dip 1001 5 10; hold 0000 15 10; release 0100 20 5
but not while one of them pressed : 1ado1:W 3+2W |10 15+3W |20 : press 1011 7 9; hold 0000 17 10
once that one is up, the adopter alone holds it : 1ado1:W 3+2W 5-2W |10 15+3W |20 : press 1011 7 9; dip 1001 5 10
an adopt while another holds it changes nothing : 1+W 5ado2:W |10 : press 1000 9 9
a disconnect of one of two holders changes nothing : 1+W 3+2W 5dis1 |10 : press 1000 9 9
a lost release on one while another holds it by a press : 1+W 3+3W 5+W |10 : press 1000 9 9
a lost release on one while another only adopted it : 1+W 3ado3:W 5+W |10 : press 2001 5 9
system repeats add up over devices : 1+W 2+2W 3~W 4+2W |10 : press 1000 9 9 sys2
)");
}

TEST(ButtonRules, OrderAndLateness) {
    check(R"(
a late event takes effect when its predecessor does : 8+W 5-W |10 : blip 1100 0 0
an event after the cut holds back those behind it : 15+S 5+W |10 |20 : idle 0000 0 0; press 1000 5 5
what comes after its cut takes effect at the cut : |10 5+W |20 : idle 0000 0 0; press 1000 10 10
staying takes what came late, with no length : |10 5+W |10 |20 : idle 0000 0 0; press 1000 0 0; hold 0000 10 10
strays move the effective time : 8-S 5+W |10 : press 1000 2 2
ignored events move the effective time : 1foc0 8+S 5foc1 6+W |10 : press 1000 2 2
going back changes nothing, and nothing fires twice : 5+W |10 |7 15-W |20 : press 1000 5 5; hold 0000 5 0; release 0100 10 5
)");
}

// Delay 10, interval 4, and a cap.
TEST(ButtonRules, Repeats) {
    check(R"(
pulses at delay and then at intervals : 0+W |9 |10 |13 |14 |22 : press 1000 9 9; hold 0000 10 1 rep1; hold 0000 13 3; hold 0000 14 1 rep1; hold 0000 22 8 rep2
no pulse at the very end of a hold : 0+W 10-W |20 : blip 1100 10 10
a pulse just before it : 0+W 11-W |20 : blip 1100 11 11 rep1
adopted holds do not repeat : 0ado1:W |30 : hold 0010 30 30
a press on another device starts the repeats of an adopted hold : 0ado1:W 10+2W |30 : press 1011 20 30 rep3
a new press starts anew : 0+W |11 12-W 13+W |22 |23 : press 1000 11 11 rep1; dip 1100 9 10; hold 0000 10 1 rep1
system repeats have nothing to do with it : 0+W 3~W 6~W |9 |10 : press 1000 9 9 sys2; hold 0000 10 1 rep1
)",
          {Duration{10}, Duration{4}, 0});
    check(R"(
a cap drops what is over and shifts nothing : 0+W |30 |33 |34 : press 1000 30 30 rep2; hold 0000 33 3; hold 0000 34 1 rep1
the cap is over all holds of the frame : 0+W 15-W 20+W |40 : press 2100 20 35 rep2
)",
          {Duration{10}, Duration{4}, 2});
}

TEST(ButtonRules, EdgesAreInOrder) {
    test::check_rows(R"(
in the order taken : 5+W 5+2A 6-W : 5 1 KeyW press; 5 2 KeyA press; 6 1 KeyW release
at effective times : 9+W 5-W : 9 1 KeyW press; 9 1 KeyW release
unmerged : 1+W 2+2W 3-W 4-2W : 1 1 KeyW press; 2 2 KeyW press; 3 1 KeyW release; 4 2 KeyW release
a focus loss by device, then name : 1+2B 2+Z 3+2A 4+A 9foc0 : 1 2 KeyB press; 2 1 KeyZ press; 3 2 KeyA press; 4 1 KeyA press; 9 1 KeyA cancel; 9 1 KeyZ cancel; 9 2 KeyA cancel; 9 2 KeyB cancel
a state ends before it starts : 1+Z 2+A 9sta1:YB : 1 1 KeyZ press; 2 1 KeyA press; 9 1 KeyA release; 9 1 KeyZ release; 9 1 KeyB press; 9 1 KeyY press
names sort as bytes, not by number : 1+< 2+Z 9int : 1 1 ShiftLeft press; 2 1 KeyZ press; 9 1 KeyZ cancel; 9 1 ShiftLeft cancel
a lost release : 1+W 5+W : 1 1 KeyW press; 5 1 KeyW cancel; 5 1 KeyW press
no edge of system repeats : 1+W 5~W : 1 1 KeyW press
)",
                     [](const std::string& script) {
                         ScriptRun run;
                         run.run(script + " |100");
                         return std::vector{test::edges_text(run.sampler.frame())};
                     });
}

}  // namespace
