// Any bytes as a packed snapshot, difference or frame of actions: refused, or exactly what the packer gives.

#include <algorithm>
#include <array>
#include <vector>

#include "cursorum/actions/action_packing.hpp"
#include "cursorum/core/controls.hpp"
#include "cursorum/core/snapshot_packing.hpp"
#include "fuzz/fuzz_input.hpp"

using namespace cursorum;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto bytes = std::as_bytes(std::span{data, size});
    const auto same = [&](std::span<const std::byte> packed) { return std::ranges::equal(packed, bytes); };
    std::array<std::byte, packed_snapshot_room> room;
    Snapshot snapshot;
    if (try_unpack(bytes, snapshot) == Unpacking::done)
        test::require(same(std::span{room}.first(pack(snapshot, room))), "a snapshot has one form");
    const Snapshot base{Time{Duration{7}}, {controls::KeyW, controls::Space}};
    if (try_unpack(bytes, base, snapshot) == Unpacking::done)
        test::require(same(std::span{room}.first(pack_difference(base, snapshot, room))), "a difference has one form");
    Profile profile;
    profile.modes = {
        {.name = "m",
         .actions = {
             {.name = "b"}, {.name = "a", .kind = ActionKind::axis}, {.name = "v", .kind = ActionKind::vector}}}};
    const ActionPacker packer{profile};
    ActionFrame frame;
    if (packer.unpack(bytes, frame)) {
        std::vector<std::byte> packed(packer.most_bytes());
        packed.resize(packer.pack(frame, packed));
        test::require(same(packed), "a frame of actions has one form");
    }
    return 0;
}
