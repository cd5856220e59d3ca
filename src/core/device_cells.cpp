#include "cursorum/core/detail/device_cells.hpp"

#include <cstring>

namespace cursorum::detail {

void SharedName::set(std::string_view name) noexcept {
    std::size_t size = std::min(name.size(), capacity);
    if (size < name.size())  // not in the middle of a UTF-8 sequence
        while (size > 0 && (static_cast<unsigned char>(name[size]) & 0xC0U) == 0x80U) --size;
    std::array<char, capacity + 1> bytes{};
    if (size > 0) std::memcpy(bytes.data(), name.data(), size);
    const std::uint32_t next = version_.get() + 1;
    Words& words = texts_[next & 1];
    for (std::size_t i = 0; i < words.size(); ++i) {
        std::uint64_t word;
        std::memcpy(&word, bytes.data() + 8 * i, 8);
        words[i].publish(word);
    }
    version_.publish(next);
}

// Which text stands is looked up before and after: a text is only written over once another has taken its place, and
// whoever reads a word of the new one sees that too.
std::array<char, SharedName::capacity + 1> SharedName::read() const noexcept {
    std::array<char, capacity + 1> bytes;
    for (;;) {
        const std::uint32_t version = version_.look();
        const Words& words = texts_[version & 1];
        for (std::size_t i = 0; i < words.size(); ++i) {
            const std::uint64_t word = words[i].look();
            std::memcpy(bytes.data() + 8 * i, &word, 8);
        }
        if (version_.get() == version) return bytes;
    }
}

}  // namespace cursorum::detail
