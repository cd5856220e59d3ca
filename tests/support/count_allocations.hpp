// Linking count_allocations.cpp replaces operator new and counts its calls.
#pragma once

namespace test {

extern unsigned long allocations;      ///< calls
extern unsigned long allocated_bytes;  ///< by all of them, whether or not they were freed since

}  // namespace test
