// A line of CSV: texts become fields that no spreadsheet takes for formulas; numbers are unchanged. One place, so that
// every table quotes alike.
#pragma once

#include <fmt/format.h>

#include <iterator>
#include <string>
#include <string_view>
#include <type_traits>
#include <utility>

#include "cursorum/views/text.hpp"

namespace cursorum {

class CsvRow {
public:
    template <typename... Values>
    CsvRow& add(const Values&... values) {
        (add_one(values), ...);
        return *this;
    }
    /// For a number, or "true" or "false", that is already text.
    CsvRow& add_number(std::string_view text) {
        separate();
        line_ += text;
        return *this;
    }
    CsvRow& skip(unsigned count) {
        for (; count != 0; --count) add(std::string_view{});
        return *this;
    }
    /// With its line feed.
    std::string end() const { return line_ + '\n'; }

private:
    template <typename Value>
    void add_one(const Value& value) {
        separate();
        if constexpr (std::is_convertible_v<const Value&, std::string_view>)
            line_ += csv_field(value);
        else
            fmt::format_to(std::back_inserter(line_), "{}", value);
    }

    void separate() {
        if (!std::exchange(is_first_, false)) line_ += ',';
    }

    std::string line_;
    bool is_first_ = true;
};

}  // namespace cursorum
