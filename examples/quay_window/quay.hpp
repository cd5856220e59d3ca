// The world: a ship, a quay, boxes in stacks, and a crane whose spreader takes one at a time. It knows no input.
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

/// Columns 0 to 3 are the ship's, 4 to 6 the quay's. Heights count boxes.
struct Quay {
    static constexpr std::size_t column_count = 7, highest = 5;
    static constexpr double top = 7;  // where the spreader stops

    std::array<std::vector<Box>, column_count> stacks;
    std::optional<Box> held;
    double trolley = 5, height = 6;  // in columns from the left, in boxes from the ground
    unsigned moved = 0;              // boxes put down
    bool has_landed = false;         // on a stack, in this step
    double horn_until = 0, now = 0;

    Quay() {
        constexpr unsigned colours[] = {0xE8833A, 0x4E8FA8, 0xB8C15A, 0xC0504D};
        for (unsigned i = 0; i < 11; ++i) stacks[i % 5].push_back({"QA" + std::to_string(17 + 23 * i), colours[i % 4]});
    }
    std::size_t column() const { return static_cast<std::size_t>(std::clamp(trolley + 0.5, 0.0, 6.0)); }
    /// Where the spreader stands on the stack below it; the held box is between the two.
    double floor() const { return static_cast<double>(stacks[column()].size()) + (held ? 1 : 0); }
    void move(double right, double down) {
        const bool stood = has_landed;
        trolley = std::clamp(trolley + right, 0.0, 6.0);
        height = std::clamp(height - down, std::min(floor(), top), top);
        stands_ = height <= floor() + 1e-9;
        has_landed = stands_ && !stood;
    }
    bool stands() const { return stands_; }
    /// Takes the uppermost box, or puts the held one down.
    bool turn_locks() {
        std::vector<Box>& stack = stacks[column()];
        if (!stands_ || (!held && stack.empty()) || (held && stack.size() >= highest)) return false;
        if (held) {
            stack.push_back(*held);
            held.reset();
            ++moved;
        } else {
            held = stack.back();
            stack.pop_back();
        }
        return true;
    }

private:
    bool stands_ = false;
};
