// A larger value that one thread writes and any may read whole: it is written to one of two places and then published,
// and a reader that was overtaken tries again. The writer never waits.
#pragma once

#include <array>
#include <cstdint>
#include <cstring>
#include <type_traits>

#include "core/rings/single_writer.hpp"

namespace cursorum::detail {

/// One thread writes and any may read, without either waiting for the other: a value is written next to the one that
/// current one, and then replaces it. Readers look up the current one before and after reading: a value is overwritten
/// only after another one has replaced it, and a reader that sees a word of the new one also sees the replacement. A
/// reader tries `most_tries` times. Should a writer set values without a pause for so long, the words of the last try
/// are returned, each of which is a word of some value that was set.
template <typename Value, template <typename> class Atomic = std::atomic>
class SharedValue {
    static_assert(std::is_trivially_copyable_v<Value> && sizeof(Value) % 8 == 0);

public:
    static constexpr unsigned most_tries = 64;
    SharedValue() noexcept { set(Value{}); }

    void set(const Value& value) noexcept {
        const std::uint32_t next = version_.get() + 1;
        Words& words = values_[next & 1];
        std::array<std::uint64_t, sizeof(Value) / 8> plain;
        std::memcpy(plain.data(), &value, sizeof value);
        for (std::size_t i = 0; i < plain.size(); ++i) words[i].publish(plain[i]);
        version_.publish(next);
    }
    Value read() const noexcept {
        std::array<std::uint64_t, sizeof(Value) / 8> plain;
        for (unsigned tries = 0; tries < most_tries; ++tries) {
            const std::uint32_t version = version_.look();
            const Words& words = values_[version & 1];
            for (std::size_t i = 0; i < plain.size(); ++i) plain[i] = words[i].look();
            if (version_.get() == version) break;
        }
        Value value;
        std::memcpy(static_cast<void*>(&value), plain.data(), sizeof value);
        return value;
    }

private:
    using Words = std::array<SingleWriter<std::uint64_t, Atomic>, sizeof(Value) / 8>;
    SingleWriter<std::uint32_t, Atomic> version_;
    std::array<Words, 2> values_{};
};

}  // namespace cursorum::detail
