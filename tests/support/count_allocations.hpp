// Linking count_allocations.cpp replaces operator new and counts its calls.
#pragma once

namespace test {

extern unsigned long allocations;

}  // namespace test
