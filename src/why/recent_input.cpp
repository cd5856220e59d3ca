// Keeping the input of the last seconds: note() copies what a frame took into a ring of entries, without allocating.
// recent_recording.cpp makes a recording of them, and why() replays that.
#include "cursorum/why/recent_input.hpp"

#include <algorithm>
#include <bit>
#include <sstream>
#include <utility>

#include <fmt/format.h>

#include "cursorum/actions/profile_file.hpp"
#include "cursorum/recording/replay.hpp"
#include "cursorum/views/explanation.hpp"
#include "cursorum/why/action_explanation.hpp"
#include "cursorum/why/replayed_calls.hpp"
#include "views/shown.hpp"
#include "why/recent_parts.hpp"

namespace cursorum {

using detail::SlotKind;

// ---- what is kept

RecentParts::RecentParts(const Timeline& of, const Sampler& by, ActionReader& read_by,
                         const RecentInputOptions& options)
    : timeline{of},
      sampler{by},
      reader{read_by},
      length{options.length.count()},
      entries(std::bit_ceil(std::max<std::size_t>(options.room, 1024))),
      checkpoints(checkpoint_count),
      calls(call_room),
      shapings(shaping_room),
      every_key{options.every_key} {
    choose_kept();
    for (Checkpoint& checkpoint : checkpoints) reader.save_to(checkpoint.reader);
    detail::ReaderAccess::log_calls(reader, &log);
}

RecentParts::~RecentParts() { detail::ReaderAccess::log_calls(reader, nullptr); }

// Buttons made of axes, and either-side names, follow from other events in a replay.
void RecentParts::choose_kept() {
    kept = {};
    for (std::uint16_t number = 1; number < first_of_axes; ++number)
        if (const std::string_view name = name_of(Button{number});
            every_key || name.starts_with("Mouse") || name.starts_with("Pad"))
            kept.insert({number});
    detail::ReaderAccess::bound_buttons(reader).for_each([&](Button button) {
        if (button.number < first_of_axes) kept.insert(button);
    });
}

void RecentParts::forget() noexcept {
    for (Checkpoint& checkpoint : checkpoints) checkpoint.is_set = false;
    last_serial = 0;
    calls_taken = log.count;
}

void RecentParts::note() {
    const FrameCore& frame = core_of(sampler.frame());
    const std::uint64_t serial = frame.state().serial;
    if (serial == last_serial && is_going()) return;
    const bool is_read = reader.end() == sampler.frame().end();
    const std::uint32_t bindings = detail::ReaderAccess::bindings(reader);
    if (serial != last_serial + 1 || !is_read || bindings != last_bindings ||
        log.count - calls_taken > log.calls.size())
        forget();
    last_serial = serial;
    if (std::exchange(last_bindings, bindings) != bindings) choose_kept();
    if (!is_read) return;
    if (is_going()) {
        add_calls(frame.state().t0);
        add_in_turn(frame);
        add_others(frame);
        add_frame(frame);
    } else {
        calls_taken = log.count;
        note_shapings(frame, false);
    }
    last_end = frame.state().t1;
    const Checkpoint& last = checkpoints[last_checkpoint % checkpoint_count];
    if (!last.is_set || last_end - last.time >= length / (checkpoint_count - 2) ||
        written - last.at >= entries.size() / checkpoint_count ||
        calls_written - last.calls_at >= call_room / checkpoint_count ||
        shapings_written - last.shapings_at >= shaping_room / checkpoint_count)
        add_checkpoint(frame);
}

// The calls before the frame that begins then; calls after the reader read it belong to the next frame.
void RecentParts::add_calls(std::int64_t start) {
    for (; calls_taken != log.count && log[calls_taken].time <= start; ++calls_taken) {
        calls[calls_written % call_room] = log[calls_taken];
        add({.time = log[calls_taken].time,
             .type = EntryType::call,
             .extra = static_cast<std::uint32_t>(calls_written++ % call_room)});
    }
}

// For a frame that begins with a pause, first the input before the pause.
void RecentParts::add_in_turn(const FrameCore& frame) {
    const bool has_pause = frame.skip_at != detail::FrameEntries::no_skip;
    const std::uint32_t axis_count = frame.other_entries().axis_count;
    const std::uint32_t edges_before = has_pause ? frame.skip_at : frame.count;
    const std::uint32_t axes_before = has_pause ? frame.skip_axes_at : axis_count;
    const std::uint32_t occasion_count = frame.other_entries().occasion_count;
    const std::uint32_t occasions_before =
        has_pause ? std::min(frame.skip_occasions_at, occasion_count) : occasion_count;
    if (axis_count != 0 || occasion_count != 0) note_shapings(frame, true);
    add_edges(frame, 0, edges_before);
    add_axes(frame, 0, axes_before);
    add_occasions(frame, 0, occasions_before);
    if (has_pause) {
        add({.time = frame.state().t0, .type = EntryType::skip, .a = static_cast<std::uint64_t>(frame.skip_from)});
        const detail::MotionSpan& span = frame.other_entries().spans[0];
        const auto [x, y] = carried_at(span.has_hole ? span.end_of_hole : span.before());
        if (span.has_hole || !span.was_any) add_pair({.time = frame.state().t0, .type = EntryType::carried}, x, y);
    }
    add_edges(frame, edges_before, frame.count);
    add_axes(frame, axes_before, axis_count);
    add_occasions(frame, occasions_before, occasion_count);
}

// Edges are the most frequent entries, so each is written in two words, and removed if it is not kept.
void RecentParts::add_edges(const FrameCore& frame, std::uint32_t from, std::uint32_t to) {
    Entry* const ring = entries.data();
    const std::uint64_t mask = entries.size() - 1;
    std::uint64_t next = written;
    const ButtonSet keeps = kept;
    for (std::uint32_t i = from; i < to; ++i) {
        const detail::StoredEdge& edge = frame.edges[i];
        const SlotKind kind = edge.what().kind();
        Entry& entry = ring[next & mask];
        entry.time = edge.time;
        entry.type = EntryType::edge;
        entry.device = edge.device();
        entry.code = edge.button();
        entry.extra = static_cast<std::uint32_t>(kind);
        next += (kind <= SlotKind::system_repeat) & keeps.contains({edge.button()});
    }
    written = next;
}

void RecentParts::add_axes(const FrameCore& frame, std::uint32_t from, std::uint32_t to) {
    for (std::uint32_t i = from; i < to; ++i) {
        const detail::AxisRecord& record = frame.other_entries().axes[i];
        if (record.is_same()) continue;
        add({.time = record.time,
             .type = EntryType::axis,
             .device = static_cast<std::uint8_t>(record.device()),
             .code = static_cast<std::uint16_t>(record.axis()),
             .extra = record.is_forced(),
             .a = std::bit_cast<std::uint64_t>(record.value)});
    }
}

void RecentParts::add_others(const FrameCore& frame) {
    const PointerReading pointer = sampler.frame().pointer();
    if (pointer.wheel() != Distance{}) {
        auto take = [&](std::int64_t time, Distance turned) {
            if (turned != Distance{}) add_pair({.time = time, .type = EntryType::wheel}, turned.x, turned.y);
        };
        frame.walk_motion({}, &take, [](void* to, const FrameCore::Moved& moved) {
            (*static_cast<decltype(take)*>(to))(moved.time, moved.wheel);
        });
    }
    add_motion(frame, pointer);
}

// One distance for the frame; if modes changed within it, one for each part.
void RecentParts::add_motion(const FrameCore& frame, const PointerReading& pointer) {
    struct Sum {
        std::int64_t time;
        Distance motion, raw;
    };
    const auto put = [&](const Sum& sum, bool has_place) {
        if (sum.motion == Distance{} && sum.raw == Distance{} && !has_place) return;
        const bool has_raw = sum.raw != Distance{};
        add_pair(
            {.time = sum.time, .type = EntryType::motion, .extra = has_raw * has_raw_bit | has_place * has_place_bit},
            sum.motion.x, sum.motion.y);
        if (has_raw) add_pair({.time = sum.time, .type = EntryType::more}, sum.raw.x, sum.raw.y);
        if (!has_place) return;
        add_pair({.time = sum.time, .type = EntryType::more}, pointer.position().x, pointer.position().y);
    };
    const std::int64_t end = frame.state().t1;
    const bool is_placed = pointer.has_position() && pointer.position() != last_place;
    if (is_placed) last_place = pointer.position();
    const Sum all{end, pointer.motion(), pointer.raw_motion()};
    const std::size_t turns = reader.mode_change_count();
    if (turns == 0 || (all.motion == Distance{} && all.raw == Distance{})) return put(all, is_placed);
    Sum sum{end, {}, {}};
    std::size_t part = 0;  // the number of mode changes before it
    auto take = [&](std::int64_t time, Distance motion, Distance raw) {
        time = std::max(time, frame.state().t0);
        std::size_t now = part;
        while (now < turns && nanoseconds(reader.mode_change(now).time) <= time) ++now;
        if (now != part) put(sum, false), sum = {};
        part = now;
        sum = {time, {sum.motion.x + motion.x, sum.motion.y + motion.y}, {sum.raw.x + raw.x, sum.raw.y + raw.y}};
    };
    frame.walk_motion({}, &take, [](void* to, const FrameCore::Moved& moved) {
        if (moved.motion != Distance{} || moved.raw != Distance{})
            (*static_cast<decltype(take)*>(to))(moved.time, moved.motion, moved.raw);
    });
    put(sum, is_placed);
}

void RecentParts::add_occasions(const FrameCore& frame, std::uint32_t from, std::uint32_t to) {
    for (std::uint32_t i = from; i < to; ++i) {
        add_occasion(frame.other_entries().occasions[i]);
        if (Entry& last = entries[(written - 1) & (entries.size() - 1)];
            last.type == EntryType::locks && frame.part_of_occasion(i) == PausePart::end)
            last.a = 1;
    }
}

void RecentParts::add_occasion(const detail::OccasionSlot& occasion) {
    using detail::OccasionKind;
    const auto device = static_cast<std::uint8_t>(occasion.device());
    if (occasion.is_contact()) {
        const WindowPoint place = point_of(occasion.position);
        const unsigned phase =
            static_cast<unsigned>(occasion.kind()) - static_cast<unsigned>(OccasionKind::contact_begin);
        add_pair({.time = occasion.time,
                  .type = EntryType::contact,
                  .device = device,
                  .code = static_cast<std::uint16_t>(phase),
                  .extra = static_cast<std::uint32_t>(occasion.contact)},
                 place.x, place.y);
        add_pair({.time = occasion.time, .type = EntryType::more}, occasion.measure, 0);
    } else if (occasion.kind() == OccasionKind::locks) {
        add({.time = occasion.time, .type = EntryType::locks, .extra = static_cast<std::uint32_t>(occasion.begin[0])});
    } else if (occasion.is_change()) {
        const bool connects = occasion.kind() == OccasionKind::connect;
        add({.time = occasion.time, .type = connects ? EntryType::connect : EntryType::disconnect, .device = device});
    }
}

// Shaping that was set since the last look: `is_new` for this frame, otherwise unchanged.
void RecentParts::note_shapings(const FrameCore& frame, bool is_new) {
    for (unsigned number = 0; number < frame.timeline->device_room(); ++number) {
        const detail::Device* const device = frame.timeline->device_numbered(number);
        if (!device) continue;
        const std::uint32_t count = device->shaping_count.look();
        if (count == shaping_counts[number]) continue;
        shaping_counts[number] = count;
        if (!is_new) continue;
        shapings[shapings_written % shaping_room] = device->shared_shaping.read();
        add({.time = frame.state().t0,
             .type = EntryType::shaping,
             .device = static_cast<std::uint8_t>(number),
             .extra = static_cast<std::uint32_t>(shapings_written++ % shaping_room)});
    }
}

void RecentParts::add_frame(const FrameCore& frame) {
    add({.time = frame.state().t1,
         .type = EntryType::frame,
         .extra = frame.has_gap ? has_gap_bit : 0U,
         .a = static_cast<std::uint64_t>(frame.state().t0)});
}

// The wheel's rotation without its whole steps.
std::array<double, 2> RecentParts::carried_at(const detail::MotionSlot& moved) noexcept {
    std::array<double, 2> carried{};
    for (unsigned axis = 0; axis < 2; ++axis) {
        const std::uint64_t whole = moved.steps >> 32 * axis << 16, rest = moved.wheel[axis] - whole;
        carried[axis] = static_cast<double>(static_cast<std::int64_t>(rest << 16) >> 16) / 65536;
    }
    return carried;
}

// As of the frame's end.
void RecentParts::add_checkpoint(const FrameCore& frame) {
    Checkpoint& it = checkpoints[++last_checkpoint % checkpoint_count];
    const detail::SamplerState& state = frame.state();
    const detail::OtherEntries& others = frame.other_entries();
    it.is_set = true;
    it.at = written;
    it.calls_at = calls_written;
    it.shapings_at = shapings_written;
    it.time = state.t1;
    std::copy_n(state.holds.begin(), it.holds.size(), it.holds.begin());
    it.start = state.start;
    it.adopted = state.adopted;
    it.levels = state.levels;
    for (std::uint32_t i = 0; i < frame.count; ++i) {
        const detail::Slot edge{frame.edges[i]};
        const unsigned hold = detail::hold_of(edge.tag()), button = edge.button();
        const std::int64_t time = frame.time_of(edge);
        if (hold < it.holds.size()) it.holds[hold] = edge, it.holds[hold].time = time;
        if (edge.what().flips()) it.levels[button / 64] ^= std::uint64_t{1} << button % 64;
        if (!edge.what().starts()) continue;
        it.start[button] = time;
        it.adopted[button] = edge.what().effect() == detail::Effect::adopt;
    }
    for (detail::Slot& hold : it.holds)
        if (hold.button() < first_of_axes && !kept.contains({hold.button()})) hold = {};
    it.axis_count = 0;
    for (unsigned i = 0; i < frame.timeline->inlet_count(); ++i)
        frame.timeline->inlet(i).tracks_.for_each([&](unsigned track, DeviceId id, Axis axis) {
            const detail::AxisRecord* const last = others.axis_record(others.axis_last[track]);
            const double value = last ? last->value : frame.others().axis_values[track];
            if (value != 0 && it.axis_count < it.axes.size()) it.axes[it.axis_count++] = {id, axis, value};
        });
    const bool any = others.has_any;
    it.pointer = any ? static_cast<const detail::PointerLevels&>(others) : frame.others();
    it.connected = any && others.occasion_count != 0 ? others.connected : frame.others().connected;
    it.contacts = frame.others().contacts;
    for (std::uint32_t i = 0; i < others.occasion_count; ++i)
        if (const detail::OccasionSlot& occasion = others.occasions[i]; occasion.is_contact())
            it.contacts[occasion.place()] = occasion;
    // Incomplete steps of the wheel.
    it.wheel_carried = carried_at(others.spans[0].after());
    reader.save_to(it.reader);
}

// The checkpoint that gives the wanted length, or the earliest one whose entries all exist.
const Checkpoint* RecentParts::beginning() const noexcept {
    const Checkpoint* best = nullptr;
    for (std::uint64_t i = 0; i < checkpoint_count; ++i) {
        const Checkpoint& it = checkpoints[(last_checkpoint - i) % checkpoint_count];
        if (!it.is_set || written - it.at > entries.size() || calls_written - it.calls_at > call_room ||
            shapings_written - it.shapings_at > shaping_room)
            break;
        best = &it;
        if (last_end - it.time >= length) break;
    }
    return best && best->time < last_end ? best : nullptr;
}

// ---- answers

namespace {

/// A frame's input on an action's controls.
enum class News : std::uint8_t { none, ended, began };

News news_of(const ActionPlace& place, const Frame& frame) {
    News news = News::none;
    const auto find = [&](News what) { news = std::max(news, what); };
    for (const Binding& binding : place.action->bindings) {
        for (const Button button : binding.buttons) {
            const ButtonFigures f = frame[button].figures();
            if (f.press_count() + f.adopt_count() != 0) find(News::began);
            if (f.release_count() + f.cancel_count() != 0) find(News::ended);
        }
        const PointerReading pointer = frame.pointer();
        const bool moved = (binding.kind == Binding::Kind::wheel_step && pointer.wheel_steps() != WheelSteps{}) ||
                           (binding.kind == Binding::Kind::wheel && pointer.wheel() != Distance{}) ||
                           (binding.kind == Binding::Kind::motion && pointer.motion() != Distance{}) ||
                           (binding.kind == Binding::Kind::axis &&
                            frame.raw_axis(binding.axis).now != frame.raw_axis(binding.axis).before) ||
                           (binding.kind == Binding::Kind::stick &&
                            frame.stick(binding.stick).now != frame.stick(binding.stick).before) ||
                           (binding.kind == Binding::Kind::lock &&
                            frame.locks().contains(binding.lock) != frame.previous_locks().contains(binding.lock));
        if (moved) find(News::began);
        if (binding.kind == Binding::Kind::touch)
            frame.for_each_contact([&](const ContactReading& contact) {
                if (contact.began) find(News::began);
                if (!contact.down) find(News::ended);
            });
    }
    return news;
}

constexpr TerminalText::Literal nothing_yet = "Nothing has been noted yet.\n";

}  // namespace

TerminalText RecentInput::why(std::string_view action, const Profile& profile) const {
    std::string problem;
    const std::optional<ActionPlace> place = find_action(profile, action, &problem);
    if (!place) return shown("{}\n", problem);
    std::stringstream recording;
    if (!write(recording)) return nothing_yet;
    // Replayed once to find the frames and once more to explain them. The first frame belongs to the checkpoint.
    std::optional<std::uint64_t> began, ended;
    std::uint64_t last = 0;
    const auto play = [&](auto&& visit) {
        recording.clear();
        recording.seekg(0);
        ReplayedCalls calls;
        ActionReader replayed{profile};
        Replay replay{
            recording, "recent input", {.on_line = [&](const RecordingLine& line, Outcome) { calls.note(line); }}};
        while (const Frame* frame = replay.next()) {
            calls.make(replayed, frame->start());
            replayed.read(*frame);
            if (replay.frame_number() != 0) visit(replay.frame_number(), *frame, replayed);
        }
    };
    Time end;
    play([&](std::uint64_t number, const Frame& frame, const ActionReader&) {
        last = number;
        end = frame.end();
        const News news = news_of(*place, frame);
        if (news == News::began) began = number, ended.reset();
        if (news != News::none && number != began) ended = number;
    });
    TerminalText text;
    if (!began && !ended)
        text = shown("None of the controls of {} was pressed or moved in the last {}.\n\n", place->action->name,
                     span_text(length()));
    const bool goes_by_release = place->action->gesture != Gesture::hold;
    play([&](std::uint64_t number, const Frame& frame, const ActionReader& replayed) {
        const bool is_wanted =
            number == began || (number == ended && (!began || goes_by_release)) || (!began && !ended && number == last);
        if (!is_wanted) return;
        if (!text.empty() && (began || ended)) text += "\n";
        text += explain_action(replayed, profile, *place, frame,
                               fmt::format("the frame {:.3f} s ago", seconds(end - frame.end())));
    });
    return text;
}

TerminalText RecentInput::why(Button button) const {
    Button missing{};
    physical_buttons(button).for_each([&](Button key) {
        if (key.number < first_of_axes && !parts_->kept.contains(key)) missing = key;
    });
    if (missing) return shown("{} is not kept, since no action binds it.\n", name_of(missing));
    std::stringstream recording;
    if (!write(recording)) return nothing_yet;
    Replay replay{recording, "recent input"};
    std::uint64_t wanted = 0;
    while (const Frame* frame = replay.next()) {
        const ButtonFigures f = (*frame)[button].figures();
        const bool has_edge = f.press_count() + f.adopt_count() + f.release_count() + f.cancel_count() != 0;
        if (has_edge || wanted == 0) wanted = replay.frame_number();
    }
    recording.clear();
    recording.seekg(0);
    return explain(recording, "recent input", {}, {.control = button, .frame = wanted, .at = {}}).text;
}

// ---- the public class

RecentInput::RecentInput(const Timeline& timeline, const Sampler& sampler, ActionReader& reader,
                         const RecentInputOptions& options)
    : parts_{std::make_unique<RecentParts>(timeline, sampler, reader, options)} {}
RecentInput::~RecentInput() = default;

void RecentInput::note() { parts_->note(); }
void RecentInput::forget() noexcept { parts_->forget(); }
Duration RecentInput::length() const noexcept {
    const Checkpoint* const begin = parts_->beginning();
    return Duration{begin ? parts_->last_end - begin->time : 0};
}

bool RecentInput::save(const std::string& path, std::string& why) const {
    std::ostringstream text;
    if (!write(text)) {
        why = path + ": nothing has been noted yet";
        return false;
    }
    return write_file_whole(path, text.str(), why);
}

}  // namespace cursorum
