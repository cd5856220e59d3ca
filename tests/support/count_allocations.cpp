#include "support/count_allocations.hpp"

#include <cstdlib>
#include <new>

namespace test {
unsigned long allocations = 0, allocated_bytes = 0;
}

void* operator new(std::size_t size) {
    ++test::allocations;
    test::allocated_bytes += size;
    if (void* memory = std::malloc(size)) return memory;
    throw std::bad_alloc{};
}
void* operator new(std::size_t size, std::align_val_t alignment) {
    ++test::allocations;
    test::allocated_bytes += size;
    const auto step = static_cast<std::size_t>(alignment);
    if (void* memory = std::aligned_alloc(step, (size + step - 1) / step * step)) return memory;
    throw std::bad_alloc{};
}
void* operator new[](std::size_t size) { return operator new(size); }
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    ++test::allocations;
    test::allocated_bytes += size;
    return std::malloc(size);
}
void* operator new[](std::size_t size, const std::nothrow_t& tag) noexcept { return operator new(size, tag); }
void operator delete(void* memory) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t) noexcept { std::free(memory); }
void operator delete(void* memory, std::align_val_t) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t, std::align_val_t) noexcept { std::free(memory); }
void operator delete[](void* memory) noexcept { std::free(memory); }
void operator delete[](void* memory, std::size_t) noexcept { std::free(memory); }
