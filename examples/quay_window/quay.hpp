// The world: a ship, a quay, boxes in stacks, and two cranes whose spreaders take one at a time. It knows no input.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <optional>
#include <string>
#include <vector>

struct Box {
    std::string label;
    unsigned colour = 0;  // 0xRRGGBB
};

/// A trolley on a bridge of its own, and what hangs from it.
struct Crane {
    double trolley = 5, height = 6;  // in columns from the left, in boxes from the ground
    std::optional<Box> held;
    bool stands = false;      // on a stack
    bool has_landed = false;  // in this step
    double horn_until = 0;
};

/// Columns 0 to 3 are the ship's, 4 to 6 the quay's. Heights count boxes.
struct Quay {
    static constexpr std::size_t column_count = 7, highest = 5;
    static constexpr double top = 7;  // where the spreader stops

    std::array<std::vector<Box>, column_count> stacks;
    std::array<Crane, 2> cranes;
    unsigned moved = 0;  // boxes put down
    double now = 0;

    Quay() {
        cranes[1].trolley = 1;
        constexpr unsigned colours[] = {0xE8833A, 0x4E8FA8, 0xB8C15A, 0xC0504D};
        for (unsigned i = 0; i < 11; ++i) stacks[i % 5].push_back({"QA" + std::to_string(17 + 23 * i), colours[i % 4]});
    }
    static std::size_t column(const Crane& crane) {
        return static_cast<std::size_t>(std::clamp(crane.trolley + 0.5, 0.0, 6.0));
    }
    /// Where the spreader stands on the stack below it; the held box is between the two.
    double floor(const Crane& crane) const {
        return static_cast<double>(stacks[column(crane)].size()) + (crane.held ? 1 : 0);
    }
    void move(Crane& crane, double right, double down) const {
        const bool stood = crane.stands;
        crane.trolley = std::clamp(crane.trolley + right, 0.0, 6.0);
        crane.height = std::clamp(crane.height - down, std::min(floor(crane), top), top);
        crane.stands = crane.height <= floor(crane) + 1e-9;
        crane.has_landed = crane.stands && !stood;
    }
    /// Takes the uppermost box, or puts the held one down.
    bool turn_locks(Crane& crane) {
        std::vector<Box>& stack = stacks[column(crane)];
        if (!crane.stands || (crane.held ? stack.size() >= highest : stack.empty())) return false;
        if (crane.held) {
            stack.push_back(*crane.held);
            crane.held.reset();
            ++moved;
        } else {
            crane.held = stack.back();
            stack.pop_back();
        }
        return true;
    }
};
