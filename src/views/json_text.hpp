// Writing JSON. The library is behind a pointer, because including it costs each file seconds of compile time; what is
// written here is little.
#pragma once

#include <cstdint>
#include <memory>
#include <string>
#include <string_view>

#include "cursorum/core/export.hpp"

namespace cursorum {

/// A value under construction. Members keep their order.
class CURSORUM_API JsonText {
public:
    static JsonText null();
    static JsonText object();
    static JsonText array();
    ~JsonText();
    JsonText(JsonText&& other) noexcept;
    JsonText& operator=(JsonText&& other) noexcept;

    /// Members of an object.
    JsonText& set(const char* name, std::string_view text);
    JsonText& set(const char* name, std::int64_t number);
    JsonText& set(const char* name, std::uint64_t number);
    JsonText& set(const char* name, JsonText value);
    /// Elements of an array.
    JsonText& add(std::string_view text);
    JsonText& add(JsonText value);

    /// As one line with its line feed. Invalid UTF-8 is replaced.
    std::string line() const;

private:
    struct Value;
    explicit JsonText(std::unique_ptr<Value> value);
    std::unique_ptr<Value> value_;
};

}  // namespace cursorum
