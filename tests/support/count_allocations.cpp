#include "support/count_allocations.hpp"

#include <cstdlib>
#include <new>

namespace test {
unsigned long allocations = 0;
}

void* operator new(std::size_t size) {
    ++test::allocations;
    if (void* memory = std::malloc(size)) return memory;
    throw std::bad_alloc{};
}
void* operator new[](std::size_t size) { return operator new(size); }
void operator delete(void* memory) noexcept { std::free(memory); }
void operator delete(void* memory, std::size_t) noexcept { std::free(memory); }
void operator delete[](void* memory) noexcept { std::free(memory); }
void operator delete[](void* memory, std::size_t) noexcept { std::free(memory); }
