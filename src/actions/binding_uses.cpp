// The controls that a binding uses, with what it does with them: two bindings conflict if one control is used by both.
// The same list finds conflicts for binding screens and for `check`.
#include "actions/binding_uses.hpp"

#include <algorithm>
#include <charconv>

#include "cursorum/core/button_set.hpp"

namespace cursorum::detail {

namespace {

void add_button(BindingUse& use, Button button) {
    physical_buttons(button).for_each([&](Button key) { use.keys.insert(std::string{name_of(key)}); });
}

}  // namespace

std::string chord_text(const Binding& binding) {
    std::string text;
    const auto add = [&](std::string_view name) {
        text += (text.empty() ? "" : binding.in_order ? ">" : "+") + std::string{name};
    };
    for (const Button button : binding.buttons) add(name_of(button));
    if (binding.wheel_way != WheelWay::none) add(name_of(binding.wheel_way));
    return text;
}

std::vector<BindingUse> uses_of(const Binding& binding) {
    std::vector<BindingUse> uses;
    const auto add = [&](std::string name) { uses.push_back({name, {name}}); };
    switch (binding.kind) {
        case Binding::Kind::lock: add(std::string{name_of(binding.lock)} + " on"); break;
        case Binding::Kind::value: {
            // A trigger may be two buttons, one at half its travel.
            char at[32];
            const char* const end = std::to_chars(at, at + sizeof at, binding.thresholds.press).ptr;
            add(std::string{name_of(binding.buttons.front())} + " at " +
                std::string(at, static_cast<std::size_t>(end - at)));
            break;
        }
        case Binding::Kind::buttons:
        case Binding::Kind::wheel_step:
            if (!binding.symbol.empty() && binding.buttons.back() == Button{}) {
                add("the symbol " + binding.symbol);
            } else if (binding.buttons.size() == 1 && binding.kind == Binding::Kind::buttons) {
                uses.push_back({std::string{name_of(binding.buttons.front())}, {}});
                add_button(uses.back(), binding.buttons.front());
            } else {
                // Two chords of the same buttons are equal, in any order.
                Binding sorted = binding;
                if (!binding.in_order)
                    std::sort(sorted.buttons.begin(), sorted.buttons.end(),
                              [](Button a, Button b) { return a.number < b.number; });
                uses.push_back({chord_text(binding), {chord_text(sorted)}});
            }
            break;
        case Binding::Kind::pair:
        case Binding::Kind::cross:
            for (const Button button : binding.buttons) {
                uses.push_back({std::string{name_of(button)}, {}});
                add_button(uses.back(), button);
            }
            break;
        case Binding::Kind::axis: add(std::string{name_of(binding.axis)}); break;
        case Binding::Kind::stick:
            uses.push_back({std::string{name_of(binding.stick)},
                            {std::string{name_of(binding.stick.x())}, std::string{name_of(binding.stick.y())}}});
            break;
        case Binding::Kind::touch: add("touch " + std::string{name_of(binding.touch)}); break;
        case Binding::Kind::motion: add("motion"); break;
        case Binding::Kind::wheel: add("wheel"); break;
    }
    return uses;
}

}  // namespace cursorum::detail
