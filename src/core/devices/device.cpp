// A device's name, which one thread writes and any may read: cut to 63 bytes at the border of a character, and copied
// as a whole.
#include "core/devices/device.hpp"

#include <cstring>

namespace cursorum::detail {

void SharedName::set(std::string_view name) noexcept {
    std::size_t size = std::min(name.size(), capacity);
    if (size < name.size())  // not in the middle of a UTF-8 sequence
        while (size > 0 && (static_cast<unsigned char>(name[size]) & 0xC0U) == 0x80U) --size;
    Bytes bytes{};
    if (size > 0) std::memcpy(bytes.data(), name.data(), size);
    bytes_.set(bytes);
}

}  // namespace cursorum::detail
