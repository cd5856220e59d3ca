// Every short sequence of events and cuts, against the naive model. CURSORUM_TEST_DEPTH=N plays sequences of up to N on
// one device, and of up to N - 1 on two; CURSORUM_TEST_SEQUENCE=TEXT plays that one alone (a failure prints it).

#include <gtest/gtest.h>

#include <algorithm>
#include <cstdlib>
#include <sstream>
#include <string>

#include "core/naive_model.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/sampler.hpp"
#include "support/sanitizers.hpp"

namespace {

using namespace test;
using namespace cursorum::controls;

constexpr std::size_t default_depth = under_any_sanitizer ? 4 : 6;

/// One timeline and one sampler for all sequences: each begins with new devices, at a time of its own.
class Player {
public:
    explicit Player(unsigned devices) : devices_{devices} { sampler_.set_repeat({Duration{5}, Duration{2}, 0}); }

    /// Letters: D down, U up, R system repeat, S state (nothing down), F focus (lost or gained), I interrupt, X
    /// disconnect (or connect), L down but late, C cut; small ones, of the second device.
    void play(const std::string& sequence) {
        NaiveSampler naive{devices_, {Duration{5}, Duration{2}, 0}};
        const auto post = [&](std::int64_t t, Event event) {
            event.time = nanoseconds_since_zero(t);
            naive.post(event);
            event.time = nanoseconds_since_zero(base_ + t);
            timeline_.desk().post(event);
        };
        if (!timeline_.desk().has_focus()) timeline_.desk().gain_focus(unknown_state, nanoseconds_since_zero(base_));
        for (unsigned d = 1; d <= devices_; ++d) {
            timeline_.desk().disconnect(DeviceId{d}, nanoseconds_since_zero(base_));
            connected_[d] = true;
        }
        sampler_.advance(nanoseconds_since_zero(base_));
        const SamplerCounters before = sampler_.counters();
        for (unsigned d = 1; d <= devices_; ++d)
            post(0, Event::connect({}, DeviceId{d}, {.kind = DeviceKind::keyboard, .marks_repeats = d == 2}));
        compare(naive, 0, before);
        std::int64_t now = 4;
        bool focused = true;
        for (const char letter : sequence) {
            const unsigned d = letter >= 'a' ? 2 : 1;
            const DeviceId device{d};
            now += 3;
            switch (letter & ~0x20) {
                case 'D': post(now, Event::button({}, device, KeyW, true)); break;
                case 'U': post(now, Event::button({}, device, KeyW, false)); break;
                case 'R': post(now, Event::button({}, device, KeyW, true, true)); break;
                case 'S': post(now, Event::state({}, device, {})); break;
                case 'F': post(now, Event::focus({}, focused = !focused)); break;
                case 'I': post(now, Event::interrupt({})); break;
                case 'X':
                    connected_[d] = !connected_[d];
                    post(now, connected_[d]
                                  ? Event::connect({}, device, {.kind = DeviceKind::keyboard, .marks_repeats = d == 2})
                                  : Event::disconnect({}, device));
                    break;
                case 'L': post(now - 5, Event::button({}, device, KeyW, true)); break;
                case 'C': compare(naive, now, before); break;
                default: FAIL() << "unknown letter " << letter;
            }
            if (testing::Test::HasFatalFailure()) return;
        }
        compare(naive, now + 20, before);
        base_ += now + 100;
    }

private:
    void compare(NaiveSampler& naive, std::int64_t cut, const SamplerCounters& before) {
        ASSERT_TRUE(naive.advance(cut));
        const Frame& frame = sampler_.advance(nanoseconds_since_zero(base_ + cut));
        std::ostringstream edges, expected;
        for (const Edge edge : frame.edges())
            edges << nanoseconds(edge.time) - base_ << ' ' << static_cast<unsigned>(edge.device) << ' '
                  << name_of(edge.kind) << "; ";
        for (const NaiveEdge& edge : naive.edges())
            expected << edge.time << ' ' << edge.device << ' ' << name_of(edge.kind) << "; ";
        ASSERT_EQ(edges.str(), expected.str());
        ASSERT_EQ(text(as_naive(frame[KeyW].figures())), text(naive.merged(KeyW)));
        ASSERT_EQ(frame[KeyW].released(), naive.merged(KeyW).released);
        for (unsigned d = 1; d <= devices_; ++d)
            ASSERT_EQ(text(as_naive(frame.on(DeviceId{d})[KeyW].figures())), text(naive.on_device(KeyW, d)));
        ASSERT_EQ(sampler_.counters().late - before.late, naive.late());
        ASSERT_EQ(sampler_.counters().taken - before.taken, naive.taken());
    }

    unsigned devices_;
    std::int64_t base_ = 0;
    bool connected_[3]{};
    Timeline timeline_{{.devices = 2, .desk_devices = false}};
    Sampler sampler_{timeline_, {.start = Time{}}};
};

/// All sequences of 1 to `depth` letters; returns how many.
std::uint64_t play_all(unsigned devices, const std::string& alphabet, std::size_t depth) {
    Player player{devices};
    std::uint64_t count = 0;
    for (std::size_t length = 1; length <= depth; ++length) {
        std::vector<std::size_t> digits(length);
        for (std::string sequence(length, alphabet[0]);; ++count) {
            player.play(sequence);
            if (testing::Test::HasFatalFailure()) {
                ADD_FAILURE() << "sequence " << sequence << "; replay: CURSORUM_TEST_SEQUENCE=" << sequence;
                return count;
            }
            std::size_t place = 0;
            while (place < length && ++digits[place] == alphabet.size()) {
                digits[place] = 0;
                sequence[place++] = alphabet[0];
            }
            if (place == length) break;
            sequence[place] = alphabet[digits[place]];
        }
    }
    return count;
}

TEST(Exhaustive, EverySequenceAgreesWithTheNaiveModel) {
    if (const char* const one = std::getenv("CURSORUM_TEST_SEQUENCE")) {
        const bool both = std::any_of(one, one + std::char_traits<char>::length(one), [](char c) { return c >= 'a'; });
        Player{both ? 2U : 1U}.play(one);
        return;
    }
    const char* const asked = std::getenv("CURSORUM_TEST_DEPTH");
    const std::size_t depth = asked ? std::strtoull(asked, nullptr, 10) : default_depth;
    EXPECT_GT(play_all(1, "DURSFIXLC", depth), 6000U);
    if (HasFatalFailure()) return;
    EXPECT_GT(play_all(2, "DdUuRsFIXlC", depth - 1), 1000U);
}

}  // namespace
