// An action reader's state as facts with names, for recordings that begin in the middle; and what a game called on it.
// For the floors above.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "core/seat_shares.hpp"
#include "cursorum/actions/action_reader.hpp"
#include "cursorum/core/export.hpp"

namespace cursorum::detail {

/// One fact: "modes", "owner/KeyW", "since/crane.lock", "switch/0/crane.lock" and the like.
struct ReaderFact {
    std::string name;
    std::string text{};  // if it is one; else a number, whole or not
    std::int64_t number = 0;
    double real = 0;
    bool is_time = false;
};

/// A call that took effect, or will with the next frame.
struct LoggedCall {
    /// take_press: consume_press() returned true. share: from a frame on, the reader reads a device or a part of it, as of a seat; end_share: it no longer does.
    /// Without a device: it reads all of them, as without seats, or none of them.
    enum class Kind : std::uint8_t { open, close, claim, end_claim, area, take_press, share, end_share };
    std::int64_t time = 0;  // the end of the reader's last frame; of shares: the start of the frame
    Kind kind{};
    std::uint16_t number = 0;  // of the mode, the claim or the action
    Claim claim{};
    std::optional<ClickArea> area{};
    SeatShare share{};
};

/// The last calls, by their numbers, which a reader's state has: when a state is restored, those after it were never
/// made. The reader overwrites the oldest.
struct CallLog {
    static constexpr std::size_t room = 256;
    std::vector<LoggedCall> calls = std::vector<LoggedCall>(room);
    /// What the reader's last frame was read of, if it was by a seat. It is unknown at first, and after a restore.
    SeatShares shares{};
    unsigned share_count = 0;
    bool knows_shares = false, is_by_seat = false;

    void set(std::uint64_t number, const LoggedCall& call) noexcept { calls[number % room] = call; }
    const LoggedCall& operator[](std::uint64_t number) const noexcept { return calls[number % room]; }
};

/// Access to a reader for the floors above.
struct CURSORUM_API ReaderAccess {
    /// The reader notes its calls in this log from now on; null ends that. The log must outlive its use.
    static void log_calls(ActionReader& reader, CallLog* log) noexcept;
    /// How many calls were made, by its present state.
    static std::uint64_t call_count(const ActionReader& reader) noexcept;
    /// Changes with each rebind().
    static std::uint32_t bindings(const ActionReader& reader) noexcept;
    /// Returns whether a claim on everything is in force, or a mode that takes text was visible within the last frame.
    static bool may_be_typing(const ActionReader& reader) noexcept;
    /// Returns whether the key's last press, or the key as it is down, belongs to a mode that takes text and does not
    /// bind it.
    static bool makes_text(const ActionReader& reader, Button key) noexcept;
    /// What the claim with that number is on: "everything", "KeyA KeyD". Empty if it is not in force.
    static std::string claim_in_force(const ActionReader& reader, unsigned claim);
    /// The reader's numbers for a profile's actions, by name; `no_action` for unknown ones.
    static std::vector<std::uint16_t> numbers_of(const ActionReader& reader, const Profile& profile);
    /// An action of its latest profile by its number, and the name of its mode. Null if there is none.
    static const Action* action_of(const ActionReader& reader, std::uint16_t number,
                                   std::string_view* mode = nullptr) noexcept;
    /// What the last press of an action by that button does, of a reader with a sink: "fired, and waits in its buffer",
    /// "waits for the rest of its gesture". Empty if its verdict is known.
    static std::string_view what_waits(const ActionReader& reader, std::uint16_t action, Button button) noexcept;
    /// What has to be down for a verdict's binding: "KeyC+KeyD". Empty for one that is no binding of buttons.
    static std::string chord_text(const ActionReader& reader, std::uint16_t binding);
    /// All buttons that its modes bind; both keys for an either-side name.
    static ButtonSet bound_buttons(const ActionReader& reader) noexcept;
    /// Of a state that this reader saved since the last rebind(). What is as in a new reader is left out, and so is
    /// what concerns single devices: seats, and claims on devices.
    static std::vector<ReaderFact> facts_of(const ActionReader& reader, const ActionReader::State& saved);
    /// The reader is then as the facts say, at the cut `at`, with an empty frame. Facts about what it does not know are
    /// ignored.
    static void set_facts(ActionReader& reader, std::span<const ReaderFact> facts, Time at);
};

}  // namespace cursorum::detail
