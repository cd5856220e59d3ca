// What was typed during a frame, in the order in which it was typed, and what an input method is composing.
#pragma once

#include <cstddef>
#include <cstdint>
#include <iterator>
#include <string_view>

#include "cursorum/core/control.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/export.hpp"
#include "cursorum/core/time.hpp"

namespace cursorum {

namespace detail {
struct FrameWindow;
}

/// The maximum length of one text event, in bytes. Longer ones are refused; pasted text does not belong
/// here.
inline constexpr unsigned text_capacity = 256;

/// What a text event reports. Input methods compose a text in several steps: it begins, changes, and is committed or
/// cancelled. What is being composed is shown in the field, but it is not part of the field's text yet.
enum class TextPhase : std::uint8_t {
    typed,   ///< text was entered at once, usually by a key
    begin,   ///< an input method begins to compose
    change,  ///< what it shows has changed
    commit,  ///< the composition has ended, and `text` was entered
    cancel,  ///< the composition has ended without a text
};

/// One text event in a frame.
struct TextPiece {
    Time time;          ///< effective time, within the frame
    DeviceId device{};  ///< 0 if the source does not know it
    Button key;         ///< the key whose press or repeat made it; 0 if no key is known
    TextPhase phase{};
    std::string_view text;  ///< UTF-8 without control characters; valid until the sampler's next advance
    unsigned caret = 0;     ///< with begin and change: where the caret stands in it, in bytes

    /// Returns whether `text` was entered, and belongs to a field's text.
    bool enters() const noexcept { return phase == TextPhase::typed || phase == TextPhase::commit; }
};

/// What an input method is composing at a frame's end.
struct Composition {
    bool is_open = false;
    std::string_view text;  ///< as TextPiece::text
    unsigned caret = 0;     ///< in bytes
};

/// The text of a frame, or the part of it that one mode or claim got, for a range-for:
///
///     actions.text_of(naming).append_to(label);             // all that was entered
///     draw_preview(actions.text_of(naming).composition());  // what is still being composed
///
/// Lifetime: as of the frame.
class CURSORUM_API TextReading {
public:
    class Iterator {
    public:
        using value_type = TextPiece;
        using difference_type = std::ptrdiff_t;
        CURSORUM_API TextPiece operator*() const noexcept;
        Iterator& operator++() noexcept {
            ++index_;
            skip();
            return *this;
        }
        void operator++(int) noexcept { ++*this; }
        friend bool operator==(const Iterator& it, std::default_sentinel_t) noexcept { return it.index_ >= it.count_; }

        /// Not for callers.
        Iterator(const detail::FrameWindow* frame, std::uint32_t count, const std::uint8_t* owners,
                 std::uint8_t owner) noexcept
            : frame_{frame}, owners_{owners}, count_{count}, owner_{owner} {
            skip();
        }

    private:
        void skip() noexcept {
            while (owners_ && index_ < count_ && owners_[index_] != owner_) ++index_;
        }
        const detail::FrameWindow* frame_;
        const std::uint8_t* owners_;
        std::uint32_t index_ = 0, count_;
        std::uint8_t owner_;
    };

    Iterator begin() const noexcept { return {frame_, count_, owners_, owner_}; }
    static std::default_sentinel_t end() noexcept { return {}; }
    bool empty() const noexcept { return begin() == end(); }

    /// Appends what was entered to a string, which may be of any type that has append(data, size).
    template <typename String>
    void append_to(String& string) const {
        for (const TextPiece& piece : *this)
            if (piece.enters()) string.append(piece.text.data(), piece.text.size());
    }

    /// What is being composed at the frame's end. Not open in a reading of a mode or claim that did not get it.
    Composition composition() const noexcept;

    /// Not for callers: frames and action readers make it. `owners`: of each piece; null: all pieces.
    TextReading(const detail::FrameWindow* frame, std::uint32_t count, const std::uint8_t* owners = nullptr,
                std::uint8_t owner = 0, bool has_composition = true) noexcept
        : frame_{frame}, owners_{owners}, count_{count}, owner_{owner}, has_composition_{has_composition} {}

private:
    const detail::FrameWindow* frame_;
    const std::uint8_t* owners_;
    std::uint32_t count_;
    std::uint8_t owner_;
    bool has_composition_;
};

/// The words of the recording format: "typed", "begin" …
CURSORUM_API std::string_view name_of(TextPhase phase) noexcept;

}  // namespace cursorum
