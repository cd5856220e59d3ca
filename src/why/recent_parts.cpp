// Keeping: note() passes over the events that a frame took, in the ledgers, and notes where the next ones begin. It
// does not allocate.
#include "why/recent_parts.hpp"

#include <algorithm>
#include <bit>

#include "cursorum/core/controls.hpp"

namespace cursorum {

using detail::ReaderAccess;

namespace {

constexpr std::size_t checkpoint_room = 18;
constexpr std::int64_t checkpoints_in_length = 15;  // so that half a minute has one every two seconds

}  // namespace

RecentParts::RecentParts(const Timeline& of, const Sampler& by, ActionReader& read_by,
                         const RecentInputOptions& options)
    : timeline{of},
      sampler{by},
      reader{read_by},
      length{options.length.count()},
      every_key{options.every_key},
      cuts(std::bit_ceil(std::clamp<std::size_t>(options.frames, 64, std::size_t{1} << 24))),
      checkpoints(checkpoint_room) {
    for (unsigned i = 0; i < of.inlet_count(); ++i)
        if (detail::Ledger* const ledger = detail::ledger_of(of, i)) ledgers.push_back(ledger);
    positions.resize(cuts.size() * ledgers.size());
    for (const detail::Ledger* ledger : ledgers) now.push_back(ledger->end());
    shapings.reserve(device_capacity);
    for (Checkpoint& checkpoint : checkpoints) {
        reader.save_to(checkpoint.reader);
        checkpoint.shapings.reserve(device_capacity);
    }
    choose_kept();
    begin_at_present();
    ReaderAccess::log_calls(reader, &log);
}

RecentParts::~RecentParts() {
    ReaderAccess::log_calls(reader, nullptr);
    for (detail::Ledger* const ledger : ledgers) ledger->keep({});
}

// Buttons made of axes, and either-side names, follow from other events in a replay.
bool RecentParts::was_taken(std::string_view action) const {
    using Kind = detail::LoggedCall::Kind;
    for (std::uint64_t i = calls_taken, end = detail::ReaderAccess::call_count(reader); i < end; ++i)
        if (log[i].kind == Kind::take_press && reader.name_of(ButtonAction{log[i].number}) == action) return true;
    return false;
}

void RecentParts::choose_kept() {
    kept = {};
    for (std::uint16_t number = 1; number < first_of_axes; ++number)
        if (!name_of(Button{number}).empty() && (every_key || !is_key({number}))) kept.insert({number});
    ReaderAccess::bound_buttons(reader).for_each([&](Button button) {
        if (button.number < first_of_axes) kept.insert(button);
    });
    for (detail::Ledger* const ledger : ledgers) ledger->keep(kept);
}

// What the ledgers do not say of the time before they are read.
void RecentParts::begin_at_present() {
    focus = 0;
    for (unsigned i = 0; i < ledgers.size(); ++i) focus |= timeline.inlet(i).has_focus() * 1U << i;
    shapings.clear();
    for (std::size_t i = 0; i < timeline.device_count(); ++i)
        set_shaping(timeline.device(i).id, timeline.device(i).shaping);
}

DeviceShaping* RecentParts::know(DeviceId device) {
    const auto found =
        std::find_if(shapings.begin(), shapings.end(), [&](const auto& it) { return it.first == device; });
    if (found != shapings.end()) return &found->second;
    return shapings.size() < shapings.capacity() ? &shapings.emplace_back(device, DeviceShaping{}).second : nullptr;
}

void RecentParts::set_shaping(DeviceId device, const DeviceShaping& shaping) {
    if (DeviceShaping* const its = know(device)) *its = shaping;
}

void RecentParts::forget() noexcept {
    for (Checkpoint& checkpoint : checkpoints) checkpoint.is_set = false;
    last_serial = 0;
}

void RecentParts::note() {
    if (!has_ledger()) return;
    const detail::FrameCut frame = detail::cut_of(sampler.frame());
    if (frame.serial == last_serial && frame.restored == last_restored && is_going()) return;
    last_restored = frame.restored;
    const bool is_read = reader.end() == sampler.frame().end();
    if (!is_read || (frame.serial != last_serial + 1 && !(is_going() && go_back(frame.serial)))) forget();
    last_serial = frame.serial;
    const std::uint32_t bindings = ReaderAccess::bindings(reader);
    const bool has_new_bindings = is_going() && bindings != last_bindings;
    if (bindings != last_bindings) choose_kept();
    last_bindings = bindings;
    if (!take_frame(frame)) {
        ++overruns;
        forget();
        for (std::size_t i = 0; i < ledgers.size(); ++i)
            now[i] = detail::ledger_end_of(sampler.frame(), static_cast<unsigned>(i));
        begin_at_present();
    }
    if (!is_read) return;
    Cut& cut = cuts[next_cut & (cuts.size() - 1)];
    if (is_going())
        while (calls_taken < ReaderAccess::call_count(reader) && log[calls_taken].time <= frame.begin) ++calls_taken;
    else
        calls_taken = ReaderAccess::call_count(reader);
    cut = {frame, calls_taken, has_new_bindings};
    std::copy(now.begin(), now.end(), &positions[(next_cut & (cuts.size() - 1)) * ledgers.size()]);
    ++next_cut;
    const Checkpoint& last = checkpoints[last_checkpoint % checkpoints.size()];
    if (!last.is_set || has_new_bindings || frame.end - last.levels.time >= length / checkpoints_in_length ||
        next_cut - last.cut >= cuts.size() / (checkpoint_room - 2) ||
        calls_taken - this->cut(last.cut).calls >= detail::CallLog::room / (checkpoint_room - 2))
        add_checkpoint();
}

// The game restored a state that it had saved after an earlier cut: what was noted since has not happened.
bool RecentParts::go_back(std::uint64_t serial) {
    const Checkpoint* begin = nullptr;
    std::uint64_t number = next_cut - 1;
    for (; number + cuts.size() > next_cut && number != 0; --number)
        if (cut(number).frame.serial + 1 == serial) break;
    if (number == 0 || number + cuts.size() <= next_cut) return false;
    for_each_checkpoint([&](const Checkpoint& it) {
        if (it.cut <= number) begin = &it;
        return begin == nullptr;
    });
    if (!begin) return false;
    for (Checkpoint& checkpoint : checkpoints)
        if (checkpoint.is_set && checkpoint.cut > number) checkpoint.is_set = false, --last_checkpoint;
    next_cut = number + 1;
    calls_taken = cut(number).calls;
    // From the checkpoint on, once more.
    focus = begin->focus;
    shapings = begin->shapings;
    for (std::size_t i = 0; i < ledgers.size(); ++i) {
        now[i] = ends(begin->cut)[i];
        if (!pass_events(now[i], ends(number)[i], INT64_MAX, static_cast<unsigned>(i))) return false;
    }
    return true;
}

// Of each inlet, what was posted when the frame was cut, up to the first event that is stamped later: it holds back
// those behind it. Returns false if some events were overwritten before they were passed.
bool RecentParts::take_frame(const detail::FrameCut& frame) {
    const bool has_typed = may_be_typing();
    for (unsigned i = 0; i < ledgers.size(); ++i) {
        const std::uint64_t from = now[i];
        if (!pass_events(now[i], detail::ledger_end_of(sampler.frame(), i), frame.end, i)) return false;
        if (has_typed) take_typed_names(i, from, now[i]);
    }
    return true;
}

bool RecentParts::pass_events(std::uint64_t& position, std::uint64_t end, std::int64_t until, unsigned inlet) {
    const detail::Ledger& ledger = *ledgers[inlet];
    while (position < end) {
        const detail::Ledger::Glance event = ledger.glance(position);
        if (!ledger.still_has(position)) return false;
        if (event.stamp > until) return true;
        if (event.type == EventType::focus) focus = (focus & ~(1U << inlet)) | event.is_flagged * 1U << inlet;
        if (event.type == EventType::shaping || event.type == EventType::connect) {
            detail::LedgerEvent it;
            if (!ledger.read(position, it)) return false;
            if (event.type == EventType::shaping)
                set_shaping(it.event.device, it.event.shaping);
            else
                know(it.event.device);
        }
        position = event.next;
    }
    return true;
}

// While a claim on everything is in force, or a mode with text was visible in the last frame, somebody may be typing
// into a field: what keys it took is nobody's business, although actions bind them.
bool RecentParts::may_be_typing() const noexcept {
    return !every_key && (ReaderAccess::may_be_typing(reader) || !typed.empty());
}

bool RecentParts::hides(Button button) const noexcept { return is_key(button) && may_be_typing(); }

bool RecentParts::is_typed(Button button) const noexcept {
    return is_key(button) && (typed.contains(button) || reader.owner_of(button).kind == ButtonOwner::Kind::claim ||
                              ReaderAccess::makes_text(reader, button));
}

void RecentParts::take_typed_names(unsigned inlet, std::uint64_t from, std::uint64_t to) {
    detail::Ledger& ledger = *ledgers[inlet];
    detail::LedgerEvent it;
    for (; from < to; from = ledger.glance(from).next) {
        const EventType type = ledger.glance(from).type;
        if ((type != EventType::button && type != EventType::state) || !ledger.read(from, it) || it.is_nameless)
            continue;
        ButtonSet taken;
        if (type == EventType::button && is_typed(it.event.control)) taken.insert(it.event.control);
        it.event.down_set.for_each([&](Button button) {
            if (is_typed(button)) taken.insert(button);
        });
        if (!taken.empty()) ledger.take_names(from, taken);
        typed = typed | taken;
    }
    typed.for_each([&](Button button) {
        if (!sampler.frame()[button].down()) typed.erase(button);
    });
}

void RecentParts::add_checkpoint() {
    Checkpoint& it = checkpoints[++last_checkpoint % checkpoints.size()];
    it.is_set = true;
    it.cut = next_cut - 1;
    it.bindings = last_bindings;
    it.focus = focus;
    it.kept = kept - typed;
    it.levels.read(sampler.frame(), it.kept);
    it.shapings = shapings;
    reader.save_to(it.reader);
    it.shares = log.shares;
    it.share_count = log.share_count;
    it.is_by_seat = log.is_by_seat;
}

const Checkpoint* RecentParts::beginning(std::uint64_t spare) const noexcept {
    const Checkpoint* best = nullptr;
    const auto take = [&](const Checkpoint& it) {
        best = &it;
        return last_end() - it.levels.time < length;
    };
    for_each_checkpoint(take, spare);
    return best && best->cut + 1 < next_cut ? best : nullptr;
}

const Checkpoint* RecentParts::before(std::uint64_t number) const noexcept {
    const Checkpoint* found = nullptr;
    for_each_checkpoint([&](const Checkpoint& it) {
        if (it.cut < number) found = &it;
        return found == nullptr;
    });
    return found;
}

}  // namespace cursorum
