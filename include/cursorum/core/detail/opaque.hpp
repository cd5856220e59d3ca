// Room for a value whose type is the core's own. Not for callers.
#pragma once

#include <cstddef>

namespace cursorum::detail {

/// Copied by its bytes. The value is trivially copyable, and fits: the core asserts that.
template <std::size_t size>
struct alignas(8) Opaque {
    std::byte bytes[size];

    template <typename Value>
    Value& as() noexcept {
        static_assert(sizeof(Value) <= size && alignof(Value) <= 8);
        return *reinterpret_cast<Value*>(bytes);
    }
    template <typename Value>
    const Value& as() const noexcept {
        static_assert(sizeof(Value) <= size && alignof(Value) <= 8);
        return *reinterpret_cast<const Value*>(bytes);
    }
};

}  // namespace cursorum::detail
