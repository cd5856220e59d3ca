// Writing JSON by the JSON library, behind a pointer. Members keep their order, and a text is one line that ends
// without a line break.
#include "views/json_text.hpp"

#include <nlohmann/json.hpp>

#include <utility>

namespace cursorum {

struct JsonText::Value {
    nlohmann::ordered_json json;
};

JsonText::JsonText(std::unique_ptr<Value> value) : value_{std::move(value)} {}
JsonText::~JsonText() = default;
JsonText::JsonText(JsonText&& other) noexcept = default;
JsonText& JsonText::operator=(JsonText&& other) noexcept = default;

JsonText JsonText::null() { return JsonText{std::make_unique<Value>()}; }
JsonText JsonText::object() { return JsonText{std::make_unique<Value>(Value{nlohmann::ordered_json::object()})}; }
JsonText JsonText::array() { return JsonText{std::make_unique<Value>(Value{nlohmann::ordered_json::array()})}; }

JsonText& JsonText::set(const char* name, std::string_view text) { return value_->json[name] = text, *this; }
JsonText& JsonText::set(const char* name, std::int64_t number) { return value_->json[name] = number, *this; }
JsonText& JsonText::set(const char* name, std::uint64_t number) { return value_->json[name] = number, *this; }
JsonText& JsonText::set(const char* name, JsonText value) {
    return value_->json[name] = std::move(value.value_->json), *this;
}
JsonText& JsonText::add(std::string_view text) { return value_->json.push_back(text), *this; }
JsonText& JsonText::add(JsonText value) { return value_->json.push_back(std::move(value.value_->json)), *this; }

std::string JsonText::line() const {
    return value_->json.dump(-1, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n";
}

}  // namespace cursorum
