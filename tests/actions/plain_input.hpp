// What frames say of input, once more and as plainly as possible, for the second implementation of action readers: one
// inlet's events in the order of their posts, with pauses and stalls.
#pragma once

#include <array>
#include <cstdint>
#include <map>
#include <set>
#include <string>
#include <utility>
#include <vector>

#include "cursorum/core/axis.hpp"
#include "cursorum/core/button_set.hpp"
#include "cursorum/core/device.hpp"
#include "cursorum/core/edge.hpp"
#include "cursorum/core/event.hpp"
#include "cursorum/core/shaping.hpp"
#include "cursorum/core/tick.hpp"

namespace test {

using namespace cursorum;

/// An event, as the program posts it to a timeline and to its plain twin.
struct Post {
    enum class What {
        button,
        system_repeat,
        blur,
        focus,
        connect,
        disconnect,
        stick,
        pull,
        shaping,
        motion,
        wheel,
        contact,
        text
    };
    std::int64_t time = 0;
    What what{};
    unsigned device = 0;
    Button button{};
    bool down = false;
    double x = 0, y = 0;  // of a stick, a trigger (x), motion, the wheel
    ButtonSet set{};      // that are down on gaining the focus
    DeviceShaping shaping{};
    DeviceKind kind{};
    bool marks_repeats = false;
    std::uint32_t contact = 0;
    ContactPhase phase{};
    double pressure = 1;
    TextPhase text_phase{};
    std::string text{};
};

/// A finger on a pad, at its place in the order in which they came.
struct PlainContact {
    unsigned device = 0;
    std::uint32_t contact = 0;
    Vector2 position{};
    double pressure = 0;
    unsigned place = 0;  // the lowest that was free
};
using PlainContacts = std::vector<PlainContact>;

/// One thing that happened in a frame.
struct Happening {
    enum class What { edge, system_repeat, motion, wheel, axes, touch, locks, text };
    std::int64_t time = 0;  // its own: earlier than the frame's start if it came in front of a stall or a pause
    What what{};
    std::size_t order = 0;  // of its post
    unsigned device = 0;
    Button button{};
    EdgeKind kind{};
    double x = 0, y = 0;
    std::array<double, axis_kinds> raw{}, shaped{};  // of the device, from here on
    Axis first{};                                    // of axes: the one that was posted, or the first of a stick
    unsigned count = 0;                              // how many axes
    bool is_forced = false;
    ButtonSet locks{};
    PlainContacts contacts{};  // from here on
    TextPhase text_phase{};
    std::string text{};
};

using PlainHolds = std::map<std::pair<unsigned, std::string>, bool>;  // device, name: whether pressed

struct PlainPad {
    std::array<double, axis_kinds> raw{}, shaped{};
};

struct PlainFrame {
    std::uint64_t serial = 0;
    std::int64_t last_cut = 0, t0 = 0, t1 = 0;
    bool is_paused = false;
    std::int64_t gap_from = 0;
    std::size_t skip_at = 0;  // of a pause: how many of `happened` come before it
    std::vector<Happening> happened;
    // At the start, before anything of `happened`; and after the pause.
    PlainHolds holds;
    std::map<unsigned, PlainPad> pads, pads_after;
    ButtonSet locks, locks_after;
    PlainContacts contacts, contacts_after;
};

class PlainInput {
public:
    PlainInput() {
        devices_[1].kind = DeviceKind::keyboard, devices_[2].kind = DeviceKind::mouse;
        devices_[1].connected = devices_[2].connected = true;
    }
    void post(const Post& post) { posts_.push_back(post); }
    void post_locks(std::int64_t time, const ButtonSet& on) {
        posts_.push_back({.time = time, .set = on, .kind = DeviceKind::keyboard});
        locks_posts_.push_back(posts_.size() - 1);
    }
    PlainFrame advance(const Tick& tick);
    /// Takes over what was posted to the other one since this one was its copy.
    void go_on_with(const PlainInput& other) {
        posts_ = other.posts_;
        locks_posts_ = other.locks_posts_;
    }

private:
    struct Device {
        DeviceKind kind{};
        bool connected = false, marks_repeats = false;
        std::map<std::string, bool> down;  // by name: whether pressed
        PlainPad pad;
        DeviceShaping shaping{};
        std::uint8_t directions = 0;  // of the left stick
    };
    void take(const Post& post, std::size_t order);
    void edge(unsigned id, std::string name, EdgeKind kind);
    void cancel(unsigned id);
    void reshape(unsigned id, const std::vector<Axis>& axes, bool is_forced);
    void reshape(unsigned id, Axis first, std::set<std::uint16_t>& ended, std::set<std::uint16_t>& started);
    void type(const Post& post);
    void cancel_text(unsigned id);
    void rest(unsigned id);
    void touched(unsigned id, bool is_forced);
    PlainHolds holds() const;

    std::vector<Post> posts_;
    std::vector<std::size_t> locks_posts_;
    std::size_t next_ = 0, order_ = 0;
    std::int64_t effective_ = 0, t1_ = 0;
    std::uint64_t serial_ = 0;
    bool focused_ = true;
    ButtonSet locks_{};
    PlainContacts contacts_;
    // The key whose press or repeat came last, if nothing of a button came after it.
    Button last_key_{};
    unsigned last_device_ = 0;
    bool is_composing_ = false;
    unsigned composing_ = 0;  // on which device
    std::map<unsigned, Device> devices_;
    std::vector<Happening>* out_ = nullptr;
};

}  // namespace test
