// The upper floors of an installed package link with what they need.
#include <cursorum/cursorum.hpp>
#include <cursorum/recording/replay.hpp>
#include <cursorum/views/frame_views.hpp>
#include <iostream>

int main() {
    cursorum::Replay replay{std::cin, "standard input", {.rate = cursorum::ExactRate{60}}};
    while (const cursorum::Frame* frame = replay.next())
        std::cout << cursorum::frame_as_jsonl(replay.frame_number(), *frame, replay.timeline(), {});
}
