// How a frame is read: its edges in order, each through ownership, chords and gestures, and between them whatever is
// due or steps at that time; after them, axes and vectors are moved. Also readings of button actions, saving and
// restoring.
#include "actions/action_reader_core.hpp"

#include <algorithm>
#include <cmath>
#include <cstddef>
#include <cstring>
#include <numeric>
#include <type_traits>
#include <utility>

#include "actions/edges.hpp"
#include "actions/finding.hpp"
#include "core/rules/chains.hpp"
#include "core/rules/figure_tally.hpp"

namespace cursorum {

using detail::ActionState;
using detail::Effect;
using detail::Ownership;
using detail::SlotKind;

namespace {

// The usual upper limit of a frame; beyond it, reading allocates.
constexpr std::size_t usual_injected = 64, usual_texts = 256;

}  // namespace

ActionReaderCore::ActionReaderCore(const Profile& profile)
    : ReaderContext{profile.problem() ? std::make_unique<ActionMap>(Profile{}) : std::make_unique<ActionMap>(profile)},
      numbering_{profile.numbering()} {
    fit_to_map();
    movement_.reserve(*map_);
    occurrences_.reserve(*map_);
    injected_.reserve(usual_injected);
    movement_.enliven_all(*map_);
    mode_changes_.reserve(detail::ModeSegments::usual_count);
    text_owners_.reserve(usual_texts);
    if (map_->has_text) typing_.reserve(usual_texts), typing_steps_.reserve(usual_texts);
}

// The data of each action.
void ActionReaderCore::fit_to_map() {
    movement_.fit(map_->actions.size());
    occurrences_.fit(*map_);
}

// ---- frames

void ActionReaderCore::read(const Frame& of) {
    const detail::FrameInput& frame = detail::input_of(of);
    if (!try_open_frame(frame)) return;
    if (verdicts_.has_sink()) [[unlikely]]
        detail::Gestures::decide_expired(*this);
    if (next_map_) apply_bindings();
    if (claims_devices() || state_.part.is_part) [[unlikely]]
        return read_unclaimed(frame);
    std::uint64_t differing = 0;
    for (unsigned i = 0; i < state_.down.size(); ++i) differing |= state_.down[i] ^ frame.initial->levels[i];
    if (differing != 0) [[unlikely]]
        heal(ButtonSet{frame.initial->levels});
    else if (state_.reopens)
        start_with_openings();
    if (verdicts_.has_sink()) [[unlikely]]
        take_merged<true>(frame);
    else
        take_merged<false>(frame);
    if (map_->has_more_than_edges) finish_frame(frame);
}

// Returns false, and the frame is empty, if it is not the next one.
bool ActionReaderCore::try_open_frame(const detail::FrameInput& frame) noexcept {
    const std::uint64_t serial = frame.initial->serial;
    const bool is_other = frame.is_peek || (frame_of_sampler_ && frame_of_sampler_ != &frame);
    const std::uint64_t next = state_.next_serial;
    if (is_other || (next != 0 && serial + 1 == next)) {
        ++(is_other ? counters_.refused : counters_.repeated);
        movement_.enliven_all(*map_);
        open_frame(state_.t1, state_.t1);
        movement_.enliven_all(*map_);
        return false;
    }
    frame_of_sampler_ = &frame;
    if (next != 0 && serial != next) counters_.left_out += serial > next ? serial - next : 1;
    state_.next_serial = serial + 1;
    open_frame(frame.t0(), frame.t1());
    return true;
}

template <bool with_verdicts>
[[gnu::always_inline]] inline void ActionReaderCore::take_merged(const detail::FrameInput& frame) {
    is_partial_ = false;
    if (map_->has_occurrences) gather_occurrences(frame);
    if (frame.texts->count != 0) [[unlikely]]
        gather_texts(frame);
    const bool has_between = occurrences_.has_any() || !injected_.empty() || !map_->lasting.empty();
    for (std::uint32_t i = 0; i < frame.count; ++i) {
        const detail::StoredEdge& record = frame.edges[i];
        const Effect effect = record.what().effect();
        const bool is_repeat = record.what().kind() == SlotKind::system_repeat;
        if (i == frame.skip_at) [[unlikely]]
            skip_pause(frame.skip_from);
        if (effect == Effect::none && !is_repeat) continue;
        // Gestures use the times of events, including those before the frame (see add_edge).
        const std::int64_t time = record.time;
        if (has_between) {
            catch_up(time - 1);
            run_timers(time);
        }
        if (is_repeat) [[unlikely]] {
            count_system_repeat({record.button()});
            continue;
        }
        if (map_->changes_modes) mode_cause_ = {.kind = detail::ModeCause::Kind::edge, .edge = &record};
        if (effect == Effect::restart) [[unlikely]]
            cancel_before_press({record.button()}, time);
        if (with_verdicts) verdicts_.from(frame.id_of(record.device()));
        take_edge<with_verdicts>({record.button()}, starts(effect), is_persons(effect), time);
        if (with_verdicts) verdicts_.from({});
    }
    if (frame.skip_at == frame.count) skip_pause(frame.skip_from);
    if (has_between) catch_up(state_.t1);
}

void ActionReaderCore::finish_frame(const detail::FrameInput& frame) {
    run_timers(state_.t1);
    if (!map_->moving.empty()) movement_.finish({*map_, state_, segments_, frame, filter()});
    if (map_->has_text) gather_typing();
}

// Runs the timers that are due by then, in order of time.
void ActionReaderCore::run_due_timers(std::int64_t until) {
    for (std::int64_t due = 0; gestures_.run_next(*this, until, due);) {
        mode_cause_ = {.kind = detail::ModeCause::Kind::timer};
        if (edges_.changes_modes()) change_modes(due);
    }
}

// Handles the occurrences in front of a pause; then ends gestures in progress and drops buffered presses.
void ActionReaderCore::skip_pause(std::int64_t from) {
    for (const auto* next = occurrences_.next(); next && next->part == PausePart::before; next = occurrences_.next()) {
        run_timers(next->time);
        take_occurrence(occurrences_.take());
    }
    run_timers(from - 1);
    gestures_.skip_pause(*this);
    // A value held beyond its threshold starts a new hold after a pause, as a held button does.
    for (std::size_t row = 0; row < map_->of_values.size(); ++row) {
        const std::uint16_t number = map_->of_values[row].number;
        if (state_.switches[number].is_down) set_switch(number, false, false, state_.t0);
    }
    for (const auto* next = occurrences_.next(); next && next->part == PausePart::end; next = occurrences_.next())
        occurrences_.take();
    set_states_again(state_.t0);
}

bool ActionReaderCore::set_area(std::uint16_t action, const std::optional<ClickArea>& area) noexcept {
    const ActionMap& map = latest_map();
    if (action >= map.actions.size() || map.actions[action].kind != ActionKind::button) return false;
    const auto end = state_.areas.begin() + state_.area_count;
    const auto its = std::find_if(state_.areas.begin(), end, [&](const auto& it) { return it.action == action; });
    if (!area && its == end) return true;
    if (area && its == end && state_.area_count == area_capacity) return false;
    if (area && its != end && its->area == *area) return true;
    if (area) {
        *its = {action, *area};
        state_.with_areas = 1;
        state_.area_count = static_cast<std::uint16_t>(state_.area_count + (its == end));
    } else {
        *its = state_.areas[--state_.area_count];
        state_.areas[state_.area_count] = {};
    }
    note_call(detail::LoggedCall::Kind::area, action, {}, area);
    return true;
}

bool ActionReaderCore::consume_press(ButtonAction action) noexcept {
    if (action.number >= map_->actions.size()) return false;
    if (map_->actions[action.number].buffer == 0) return edges_.levels()[action.number].pressed;
    if (!detail::Gestures::consume_press(*this, action.number)) return false;
    note_call(detail::LoggedCall::Kind::take_press, action.number);
    return true;
}

bool ActionReaderCore::next_edge(std::uint32_t& index, ActionEdge& edge) const noexcept {
    if (index / 2 >= edges_.all().size()) return false;
    const detail::ActionEdges::Record& record = edges_.all()[index / 2];
    const bool is_second = index % 2 != 0;
    const EdgeKind kind = edge_kind_of(record.effect, is_second);
    const bool ends = kind == EdgeKind::release || kind == EdgeKind::cancel;
    const bool was_adopted =
        record.link == 0 ? state_.buttons[record.action].adopted : edges_.at(record.link).effect == Effect::adopt;
    edge = {Time{Duration{record.time}}, {record.action, numbering_}, kind, ends && was_adopted};
    index += record.effect == Effect::restart && !is_second ? 1 : 2 - is_second;
    return true;
}

void ActionReaderCore::open_frame(std::int64_t t0, std::int64_t t1) noexcept {
    edges_.open_frame(state_);
    clear();
    state_.t0 = t0;
    state_.t1 = t1;
}

void ActionReaderCore::clear_all_else() noexcept {
    movement_.clear_steps();
    occurrences_.clear();
    segments_.clear();
    mode_changes_.clear();
    text_owners_.clear();
    typing_.clear();
    typing_steps_.clear();
}

inline void ActionReaderCore::clear() noexcept {
    edges_.clear(map_->actions.size());
    if (map_->has_only_edges && text_owners_.empty()) return;
    clear_all_else();
    movement_.clear(state_);
}

// Changes in frames that were not read. Their edges are unknown, so they count as neither presses nor releases. What
// came up is cancelled under the modes that had it, and what went down is adopted by those that are open now.
void ActionReaderCore::heal(const ButtonSet& down) {
    const ButtonSet known{state_.down};
    (known - down).for_each([this](Button button) { take_rare_edge(button, false, false, state_.t0); });
    if (state_.reopens) start_with_openings();
    (down - known).for_each([this](Button button) { take_rare_edge(button, true, false, state_.t0); });
}

// ---- readings of button actions

std::size_t ActionReading::number() const noexcept {
    return static_cast<std::size_t>(levels_ - reader_->edges_.levels());
}

bool ActionReading::was_down() const noexcept {
    return number() < reader_->map_->actions.size() && reader_->state_.buttons[number()].is_down;
}

ButtonFigures ActionReading::figures() const noexcept {
    const ActionState& state = reader_->state_;
    const detail::ActionEdges& edges = reader_->edges_;
    static constexpr Repeat usual{};
    const bool exists = this->number() < reader_->map_->actions.size();
    const std::size_t number = exists ? this->number() : 0;
    FigureTally tally{state.t0,
                      state.t1,
                      exists ? reader_->map_->actions[number].repeat : usual,
                      was_down(),
                      state.buttons[number].adopted,
                      state.buttons[number].start};
    if (exists) tally.system_repeat(edges.system_repeats(number));
    const auto take = [&](const detail::ActionEdges::Record& record) { tally.apply(record.effect, record.time); };
    for_each_in_order(
        exists ? edges.last_of(number) : 0U, [&](std::uint32_t place) { return edges.at(place).link; },
        [](std::uint32_t place) { return place == 0; }, [&](std::uint32_t place) { take(edges.at(place)); },
        [&] {
            for (const detail::ActionEdges::Record& record : edges.all())
                if (record.action == number) take(record);
        });
    return tally.finish();
}

std::optional<Time> ActionReading::first_press() const noexcept {
    if (!pressed()) return std::nullopt;
    const detail::ActionEdges& edges = reader_->edges_;
    std::int64_t first = 0;
    for (std::uint32_t place = edges.last_of(number()); place != 0; place = edges.at(place).link)
        if (presses(edges.at(place).effect)) first = edges.at(place).time;
    return Time{Duration{first}};
}

// ---- readings of axes and vectors

Vector2 ActionReaderCore::mean_of(Vector2 integral) const noexcept {
    const double length = static_cast<double>(state_.t1 - state_.t0) * 1e-9;
    return length > 0 ? Vector2{integral.x / length, integral.y / length} : Vector2{};
}

AxisActionReading ActionReaderCore::operator[](AxisAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    const Vector2 integral = movement_.integral(action.number);
    return {state_.moving[action.number].value.x, movement_.before(action.number).x, mean_of(integral).x, integral.x,
            movement_.relative(action.number).x};
}

double VectorActionReading::facing_angle() const noexcept {
    return facing == Vector2{} ? 0 : std::atan2(facing.y, facing.x);
}

VectorActionReading ActionReaderCore::operator[](VectorAction action) const noexcept {
    if (action.number >= map_->actions.size()) return {};
    const State::Moving& moving = state_.moving[action.number];
    const Vector2 integral = movement_.integral(action.number);
    return {moving.value,
            movement_.before(action.number),
            mean_of(integral),
            integral,
            movement_.relative(action.number),
            {moving.facing_x / State::Moving::facing_unit, moving.facing_y / State::Moving::facing_unit}};
}

bool ActionReaderCore::is_at_rest() const noexcept {
    const auto stands = [&](std::uint16_t action) {
        const State::Moving& moving = state_.moving[action];
        return moving.value == Vector2{} && moving.target == Vector2{};
    };
    const auto is_up = [&](std::size_t action) {
        return !edges_.levels()[action].down && !state_.bindings_down[action];
    };
    for (std::size_t i = 0; i < map_->actions.size(); ++i)
        if (!is_up(i)) return false;
    return state_.down == ButtonSet::Words{} && injected_.empty() && !state_.reopens && !next_map_ &&
           std::all_of(map_->moving.begin(), map_->moving.end(), stands);
}

// ---- rollback

// The state after this frame: its edges have been applied, and the next frame begins at its end.
void ActionReaderCore::save_to(std::vector<std::byte>& saved) const {
    static_assert(std::is_trivially_copyable_v<Injected>);
    saved.resize(state_.byte_count() + injected_.size() * sizeof(Injected));
    state_.write(saved.data());
    for (const detail::ActionEdges::Record& record : edges_.all()) {
        std::byte* const at = saved.data() + state_.offset_of_button(record.action);
        State::Button button;
        std::memcpy(&button, at, sizeof button);
        detail::ActionEdges::commit(record, button);
        std::memcpy(at, &button, sizeof button);
    }
    std::memcpy(saved.data() + offsetof(detail::ActionStateHead, t0), &state_.t1, sizeof state_.t1);
    const bool rebinds = next_map_ != nullptr;
    std::memcpy(saved.data() + offsetof(detail::ActionStateHead, rebinds), &rebinds, sizeof rebinds);
    if (!injected_.empty())
        std::memcpy(saved.data() + state_.byte_count(), injected_.data(), injected_.size() * sizeof(Injected));
}

bool ActionReaderCore::restore(const std::vector<std::byte>& saved) noexcept {
    if (saved.size() < sizeof(detail::ActionStateHead)) return false;
    std::uint32_t bindings = 0;
    bool rebinds = false;
    std::memcpy(&bindings, saved.data() + offsetof(detail::ActionStateHead, bindings), sizeof bindings);
    std::memcpy(&rebinds, saved.data() + offsetof(detail::ActionStateHead, rebinds), sizeof rebinds);
    // Saved between rebind() and the frame that applied it: that frame applies it again.
    const bool goes_back = rebinds && map_before_ && bindings + 1 == state_.bindings;
    if (bindings != state_.bindings && !goes_back) return false;
    const ActionMap& map = goes_back ? *map_before_ : *map_;
    if (goes_back) {
        next_map_ = std::exchange(map_, std::move(map_before_));
        state_ = State{map.counts()};
        edges_.forget();
        fit_to_map();
    }
    if (saved.size() < state_.byte_count()) return false;
    const std::size_t waiting = saved.size() - state_.byte_count();
    if (waiting % sizeof(Injected) != 0) return false;
    state_.read(saved.data());
    verdicts_.forget();
    if (log_) log_->knows_shares = false;
    injected_.resize(waiting / sizeof(Injected));
    if (waiting != 0) std::memcpy(injected_.data(), saved.data() + state_.byte_count(), waiting);
    show_state();
    return true;
}

// For a restored state, with an empty frame.
void ActionReaderCore::show_state() noexcept {
    gestures_.forget_next_due();  // unknown
    edges_.show(state_, map_->actions.size());
    movement_.enliven_all(*map_);
    clear();
    movement_.enliven_all(*map_);
}

void ActionReaderCore::resume(ActionState&& state) {
    state.next_serial = resumed_before_ = state_.next_serial;
    state.calls = state_.calls;
    state.bindings = state_.bindings;
    state_ = std::move(state);
    Ownership::find_visible(*this);
    for (std::uint16_t i = 0; i < button_capacity; ++i)
        state_.whose[i].next_owner = Ownership::find_next_owner(*this, {i});
    show_state();
}

void ActionReaderCore::note_call(detail::LoggedCall::Kind kind, unsigned number, const Claim& claim,
                                 const std::optional<ClickArea>& area) noexcept {
    if (log_) log_->set(state_.calls, {state_.t1, kind, static_cast<std::uint16_t>(number), claim, area});
    ++state_.calls;
}

// ---- the public class

ActionReader::ActionReader(const Profile& profile)
    : core_{new ActionReaderCore{profile}}, levels_{core_->edges_.levels()}, numbering_{core_->numbering_} {}
ActionReader::~ActionReader() { delete core_; }

void ActionReader::read(const Frame& frame) { core_->read(frame); }
void ActionReader::set_verdict_sink(VerdictSink* sink) noexcept { core_->set_verdict_sink(sink); }
void ActionReader::read(const Frame& frame, const Seats& seats, unsigned seat) { core_->read(frame, seats, seat); }

bool ActionReader::takes(std::uint32_t numbering) const noexcept {
    if (numbering == numbering_ || numbering == 0) return true;
    core_->foreign_.fetch_add(1, std::memory_order_relaxed);
    return false;
}

const detail::ActionLevels* ActionReader::levels_of_other(ButtonAction action) const noexcept {
    return levels_ + (takes(action.numbering) && action.number < action_capacity ? action.number : action_capacity);
}

AxisActionReading ActionReader::operator[](AxisAction action) const noexcept {
    return (*core_)[takes(action.numbering) ? action : AxisAction{}];
}
VectorActionReading ActionReader::operator[](VectorAction action) const noexcept {
    return (*core_)[takes(action.numbering) ? action : VectorAction{}];
}
bool ActionReader::next_edge(std::uint32_t& index, ActionEdge& edge) const noexcept {
    return core_->next_edge(index, edge);
}
std::size_t ActionReader::mode_change_count() const noexcept { return core_->mode_changes_.size(); }
ModeChange ActionReader::mode_change(std::size_t index) const noexcept { return core_->mode_changes_[index]; }
bool ActionReader::consume_press(ButtonAction action) noexcept {
    return takes(action.numbering) && core_->consume_press(action);
}

bool ActionReader::open(ModeHandle mode) noexcept {
    if (!takes(mode.numbering) || !Ownership::open(*core_, mode)) return false;
    core_->note_call(detail::LoggedCall::Kind::open, mode.number);
    return true;
}
bool ActionReader::close(ModeHandle mode) noexcept {
    if (!takes(mode.numbering) || !Ownership::close(*core_, mode)) return false;
    core_->note_call(detail::LoggedCall::Kind::close, mode.number);
    return true;
}
bool ActionReader::is_open(ModeHandle mode) const noexcept {
    return takes(mode.numbering) && Ownership::is_open(*core_, mode);
}
bool ActionReader::pauses() const noexcept { return Ownership::pauses(*core_); }
bool ActionReader::is_visible(ModeHandle mode) const noexcept {
    return takes(mode.numbering) && mode.number < mode_capacity && detail::has_mode(core_->state_.visible, mode.number);
}
ButtonOwner ActionReader::owner_of(Button button) const noexcept {
    return Ownership::owner_of(*core_, button, numbering_);
}

std::optional<ClaimId> ActionReader::claim(const Claim& claim) noexcept {
    const auto id = Ownership::claim(*core_, claim);
    if (id) core_->note_call(detail::LoggedCall::Kind::claim, static_cast<unsigned>(*id), claim);
    return id;
}
void ActionReader::end_claim(ClaimId claim) noexcept {
    Ownership::end_claim(*core_, claim);
    core_->note_call(detail::LoggedCall::Kind::end_claim, static_cast<unsigned>(claim));
}
bool ActionReader::has_press(ClaimId claim, Button button) const noexcept {
    return Ownership::has_press(*core_, claim, button);
}

bool ActionReader::set_area(ButtonAction action, const std::optional<ClickArea>& area) noexcept {
    return takes(action.numbering) && core_->set_area(action.number, area);
}
TextReading ActionReader::text_of(ModeHandle mode) const noexcept {
    const bool is_known = takes(mode.numbering) && mode.number < mode_capacity;
    return core_->text_of(is_known ? static_cast<std::uint8_t>(detail::Owner::first_mode + mode.number)
                                   : ActionReaderCore::no_ones_text);
}
std::span<const TypingStep> ActionReader::typing(ModeHandle mode) const noexcept {
    return takes(mode.numbering) ? core_->typing(mode) : std::span<const TypingStep>{};
}
TextReading ActionReader::text_of(ClaimId claim) const noexcept {
    const bool is_known = static_cast<unsigned>(claim) < claim_capacity;
    return core_->text_of(is_known
                              ? static_cast<std::uint8_t>(detail::Owner::first_claim + static_cast<unsigned>(claim))
                              : ActionReaderCore::no_ones_text);
}
TextReading ActionReader::text() const noexcept { return core_->text_of(detail::Owner::nobody); }

bool ActionReader::rebind(const Profile& profile, std::string* why) { return core_->rebind(profile, why); }

std::optional<ButtonAction> ActionReader::find_button(std::string_view name, std::string* why) const {
    const auto number = core_->latest_map().find(name, ActionKind::button, why);
    return number ? std::optional{ButtonAction{*number, numbering_}} : std::nullopt;
}
std::optional<AxisAction> ActionReader::find_axis(std::string_view name, std::string* why) const {
    const auto number = core_->latest_map().find(name, ActionKind::axis, why);
    return number ? std::optional{AxisAction{*number, numbering_}} : std::nullopt;
}
std::optional<VectorAction> ActionReader::find_vector(std::string_view name, std::string* why) const {
    const auto number = core_->latest_map().find(name, ActionKind::vector, why);
    return number ? std::optional{VectorAction{*number, numbering_}} : std::nullopt;
}
std::optional<ModeHandle> ActionReader::find_mode(std::string_view name, std::string* why) const {
    const std::vector<std::string>& names = core_->latest_map().mode_names;
    const auto number = detail::find_mode({names.begin(), names.end()}, name, why);
    return number ? std::optional{ModeHandle{*number, numbering_}} : std::nullopt;
}

std::string_view ActionReader::name_of(ModeHandle mode) const noexcept {
    const std::vector<std::string>& names = core_->latest_map().mode_names;
    return takes(mode.numbering) && mode.number < names.size() ? std::string_view{names[mode.number]}
                                                               : std::string_view{};
}
std::string ActionReader::name_of(ButtonAction action) const {
    const ActionMap& map = core_->latest_map();
    if (!takes(action.numbering) || action.number >= map.known.size()) return {};
    const ActionMap::Known& known = map.known[action.number];
    return map.mode_names[known.mode] + "." + known.action.name;
}

bool ActionReader::inject(ButtonAction action, bool down, Time when) {
    return takes(action.numbering) && core_->inject(action, down, when);
}
bool ActionReader::inject(AxisAction action, double value, Time when) {
    return takes(action.numbering) && core_->inject(action, value, when);
}
bool ActionReader::inject(VectorAction action, Vector2 value, Time when) {
    return takes(action.numbering) && core_->inject(action, value, when);
}

ActionReader::State ActionReader::save() const {
    State state;
    save_to(state);
    return state;
}
void ActionReader::save_to(State& state) const { core_->save_to(state.bytes_); }
std::size_t ActionReader::state_size() const noexcept { return core_->state_.byte_count(); }
bool ActionReader::restore(const State& saved) noexcept { return core_->restore(saved.bytes_); }

ActionReaderCounters ActionReader::counters() const noexcept {
    ActionReaderCounters counters = core_->counters_;
    counters.foreign = core_->foreign_.load(std::memory_order_relaxed);
    return counters;
}
bool ActionReader::is_at_rest() const noexcept { return core_->is_at_rest(); }
Time ActionReader::start() const noexcept { return Time{Duration{core_->state_.t0}}; }
Time ActionReader::end() const noexcept { return Time{Duration{core_->state_.t1}}; }

}  // namespace cursorum
