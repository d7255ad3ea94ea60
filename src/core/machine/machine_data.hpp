// The compiled tables of a machine, and where everything lies in an instance's block.
//
// States are numbered in file order, parents before children, so "s is active" is one range check: the innermost active
// state of s's region lies in [s, last descendant of s].
#pragma once

#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <limits>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "expression/expression.hpp"
#include "machine/block_header.hpp"
#include "machine/limits.hpp"
#include "mobrin/core/cue.hpp"
#include "mobrin/core/parts.hpp"
#include "mobrin/core/ticket.hpp"

namespace mobrin::detail {

template <class Tag>
struct Range {
  std::uint32_t begin = 0;
  std::uint32_t count = 0;
};

enum class InputKind : std::uint8_t { boolean, whole, number, choice, pulse };

struct InputData {
  InputKind kind = InputKind::boolean;
  std::uint32_t offset = 0;
  std::int32_t whole_min = 0, whole_max = 0, whole_start = 0;  // start: also of bools and choices
  float min = 0, max = 0, start = 0;
  double grain = 0;
  // A pulse without a buffer is a byte, 1 while it is alive; one with a buffer is the last instant of its life.
  std::int64_t buffer = 0;
};

struct VarData {
  ValueType type = ValueType::number;
  std::uint32_t offset = 0;
  double start = 0;
};

struct ActionData {
  ExprRef value;  // of an assignment; empty for tell
  ValueType type = ValueType::none;
  std::uint32_t offset = 0;      // the variable
  std::uint16_t cue = kNoIndex;  // to tell
  std::uint32_t fields = 0;
};

struct Stretch {
  bool timed = false;
  bool to_end = false;              // a time that reaches the clip's end, which then belongs to it
  std::uint16_t clip = kNoIndex;    // kNoIndex: of any clip
  std::int64_t begin = 0, end = 0;  // frames, both included, or ticks of the clip's own time, end excluded
};

// A window of a clip: its name's number and where it is open.
struct ClipWindow {
  std::uint16_t name = 0;
  std::vector<Stretch> stretches;
};

// What shows from `begin` on: a frame, or a piece of one where a span in times begins or ends within it.
struct Segment {
  std::int64_t begin = 0;         // on the cycle, in ticks
  std::int64_t own = 0;           // the clip's own time there
  std::int32_t frame = -1;        // -1 for a clip without frames
  std::uint16_t clip = kNoIndex;  // kNoIndex for a bare length
  bool mirrored = false;          // on the way back
};

struct MarkData {
  MarkAt at = MarkAt::frame_begin;
  MarkWay way = MarkWay::both;
  std::uint16_t cue = 0;
  std::uint16_t clip = 0;
  std::int32_t first = 0, last = 0;  // frames
  std::int64_t time = 0;             // ticks on the clip's own time; of a span in times where it begins
  std::int64_t until = 0;            // of a span in times: where it ends
  std::uint32_t fields = 0;
};

// One pass of a clip within a cycle: a clip of its own has one, a sequence one for each pass of each clip.
struct CyclePart {
  std::uint16_t clip = kNoIndex;
  std::int64_t begin = 0;
  std::uint32_t segment = 0;  // its first
};

struct ClipData {
  std::int64_t length = 0;
  std::int64_t cycle = 0;
  std::int64_t turn = 0;    // own time = turn - (position - length) on the way back
  std::int32_t passes = 1;  // 0: endless
  std::vector<Segment> segments;
  std::vector<CyclePart> parts;
  std::vector<MarkData> marks;
  std::vector<ClipWindow> windows;
};

enum class FiringKind : std::uint8_t { cue, span_begin, span_end };
inline constexpr std::uint8_t kOwnPoint = 0xff;
struct Firing {
  std::uint16_t mark = 0;
  FiringKind kind = FiringKind::cue;
  std::int32_t frame = -1;         // what the record names
  std::uint8_t point = kOwnPoint;  // of a blend: whose clip has the mark, where that is not the heaviest
};
// A place on a cycle where something lies, with what is told on passing it in either direction.
struct Stop {
  std::int64_t at = 0;
  bool always = false;  // an edge of the cycle or of a window: something lies here in either direction
  bool window = false;  // an edge of a window
  Range<Firing> forward;
  Range<Firing> backward;
};

enum class PlayType : std::uint8_t { nothing, pose, length, clip };
// A clip as one state plays it: the places depend on the windows that its transitions ask for.
struct PlayedClip {
  std::uint16_t clip = kNoIndex;  // into ClipData
  Range<Stop> stops;
  bool edges_stir = true;  // coming round or ending may let a transition be taken or an action run
  bool forward_round = false, backward_round = false;  // it comes round without telling anything but `loop`
};
struct PlayData {
  PlayType type = PlayType::nothing;
  std::uint16_t by = kNoIndex;     // the input that chooses among the clips, or
  std::uint16_t blend = kNoIndex;  // the blend whose heaviest point does
  Range<PlayedClip> clips;         // one, or one a choice
  std::int32_t speed = kOne;       // where `speed_expression` is empty
  ExprRef speed_expression;
  std::int32_t pose_frame = 0;  // -1: of a clip without frames
  std::int64_t pose_time = 0;   // where that stands, in ticks on its own time
  [[nodiscard]] bool follows() const { return !speed_expression.empty() || blend != kNoIndex; }  // in its speed
  [[nodiscard]] bool chooses() const { return by != kNoIndex || blend != kNoIndex; }
  [[nodiscard]] bool moves() const { return type == PlayType::length || type == PlayType::clip; }
};

// Several clips at once: one choice a point.
struct BlendData {
  ExprRef x, y;  // y empty: one axis
  std::vector<BlendPointDef> points;
  double floor = 0;
  double cues_above = 2;  // a weight; above 1 for none
};
inline constexpr std::size_t kMostBlendPoints = 32;

// Where a transition leads: a state, back to what was before its owner, or the child of a state that was active last.
enum class TargetKind : std::uint8_t { state, back, last };

enum class GoEvent : std::uint8_t { none, pulse, cue, at_end, at_loop, after };
// What an event is, for all who ask: the engine, who is woken by a write, the quick way of crowds.
struct EventRule {
  bool lasts = true;        // true while something is so; else for the one round right after it happened
  bool stands = false;      // where its target is active already, the rest of the list is passed over
  bool by_itself = false;   // it comes when a state's own time or play is over
  bool of_a_write = false;  // it begins with a write (a pulse), not with time
};
[[nodiscard]] constexpr EventRule rule_of(GoEvent event) {
  switch (event) {
    case GoEvent::none:
      return {.lasts = true, .stands = true};
    case GoEvent::at_end:
    case GoEvent::after:
      return {.lasts = true, .stands = true, .by_itself = true};
    case GoEvent::pulse:
      return {.lasts = true, .of_a_write = true};
    case GoEvent::cue:
    case GoEvent::at_loop:
      return {.lasts = false};
  }
  return {};
}

struct DuringData {
  std::uint16_t window = kNoIndex;  // a window's name's number, or
  Stretch stretch;                  // of any clip
};

struct TransitionData {
  GoEvent event = GoEvent::none;
  StartKind start = StartKind::begin;
  TargetKind target_kind = TargetKind::state;
  bool restart = false;
  bool loud = false;  // what it leaves goes on telling its cues while it fades
  std::uint16_t owner = 0;
  std::uint16_t target = 0;
  std::uint16_t arg = 0;  // pulse input or cue
  std::uint16_t during = kNoIndex;
  std::int32_t start_frame = 0;
  std::int64_t start_time = 0;  // ticks on the clip's own time
  std::int64_t after = 0;       // sub-ticks
  std::int64_t fade = 0;        // sub-ticks
  ExprRef guard;
  Range<ActionData> actions;
};

struct StateData {
  std::uint16_t parent = 0;
  std::uint16_t last = 0;                            // its last descendant; itself without children
  std::uint16_t region = 0;                          // where it lies; the root's is 0 and means nothing
  std::uint16_t initial = kNoIndex;                  // child in the same region
  std::uint16_t region_begin = 0, region_count = 0;  // its own regions; the root always has one at least
  std::uint16_t depth = 0;
  bool final = false;
  bool sealed = false;
  bool restful = true;                   // neither ends nor goes back by itself: `to: back` may lead here
  std::uint32_t back = kNoOffset;        // u16: where its own `to: back` leads, if states inside may change meanwhile
  std::uint32_t last_child = kNoOffset;  // u16: the child that was active last, where `to: x/last` asks for it
  std::uint32_t timer = kNoOffset;       // time in the state, where `after` or `linger` needs it
  std::int64_t linger = 0;               // sub-ticks
  std::uint64_t traits = 0;
  PlayData play;
  Range<TransitionData> go;
  Range<std::int64_t> afters;  // sub-ticks, of its own go
  Range<VarData> vars;
  Range<ActionData> enter, exit, each_loop;
};

// Where the values of one play lie in the block; kNoOffset for what the region's plays need not store.
struct SlotData {
  std::uint32_t playhead = kNoOffset;  // i64 sub-ticks
  std::uint32_t speed = kNoOffset;     // i32 16.16
  std::uint32_t passes = kNoOffset;    // u16: bit 15 backwards, the rest edges reached
  std::uint32_t choice = kNoOffset;    // u8: which of its clips
};
inline constexpr std::uint16_t kBackward = 0x8000;

// A play that was left and fades out. It keeps its speed and its clip.
struct LayerData {
  SlotData slot;
  std::uint32_t weight = kNoOffset;  // u32 of kWholeWeight, when the fade began; 0 for no layer
  std::uint32_t state = kNoOffset;   // u16
  std::uint32_t loud = kNoOffset;    // u8
};
inline constexpr std::uint32_t kWholeWeight = 1u << 30;
inline constexpr std::size_t kFadeLayers = 3;  // beside what is entered

struct RegionData {
  std::uint16_t owner = 0;
  std::uint16_t initial = 0;
  std::uint32_t rest = kNoOffset;  // u16: the last restful leaf entered, where a `to: back` asks for it
  std::uint32_t leaf = kNoOffset;  // u16: innermost active state; kNoIndex when not active
  SlotData slot;
  // Where a transition fades. Layers the oldest first.
  std::uint32_t fade_length = kNoOffset;  // i64 sub-ticks; 0 for no fade
  std::uint32_t fade_run = kNoOffset;     // i64 sub-ticks
  std::array<LayerData, kFadeLayers> layers;
  [[nodiscard]] bool fades() const { return fade_length != kNoOffset; }
};

// How many Machines share some tables; a copy of the tables is nobody's yet.
struct Holders {
  std::atomic<std::uint32_t> count{0};
  Holders() = default;
  Holders(const Holders&) {}
  Holders& operator=(const Holders&) { return *this; }
};

// Computed when it is first asked for; 0 until then.
struct KnownFingerprint {
  std::atomic<std::uint64_t> value{0};
  KnownFingerprint() = default;
  KnownFingerprint(const KnownFingerprint&) {}
  KnownFingerprint& operator=(const KnownFingerprint&) { return value = 0, *this; }
};

struct Prepared;  // quick.hpp

struct MachineData {
  mutable Holders holders;
  mutable KnownFingerprint fingerprint;
  std::uint32_t serial = 0;
  std::string name;
  std::size_t block_size = 0;
  std::uint32_t most_records = 0;

  std::vector<InputData> inputs;
  std::vector<StateData> states;
  std::vector<RegionData> regions;
  std::vector<TransitionData> transitions;
  std::vector<DuringData> durings;
  std::vector<ClipData> clips;  // those of `clip_infos` first, then one a bare length or sequence
  std::vector<PlayedClip> played;
  std::vector<BlendData> blends;
  std::vector<Stop> stops;
  std::vector<Firing> firings;
  std::vector<std::int64_t> afters;
  std::vector<VarData> vars;
  std::vector<ActionData> actions;
  std::vector<std::vector<FieldValue>> fields;  // resolved; entry i < cues is cue i's own
  ExprPool expressions;
  bool timed = false;                         // some state has a timer
  bool ends = false;                          // some state is final
  std::size_t cue_words = 0;                  // 64-bit words for a bit for each cue
  std::vector<std::uint8_t> heard;            // for each cue, whether it is the event of a transition
  std::vector<std::uint16_t> brief_pulses;    // inputs: those without a buffer
  std::vector<std::uint16_t> speed_regions;   // regions where some play has a speed expression, in file order
  std::vector<std::uint16_t> choice_regions;  // regions where some play is one of several clips by an input, likewise

  double unit = 32;
  std::vector<ReachDef> reaches;
  std::vector<ZoneInfo> zones;
  std::vector<LookDef> looks;
  std::vector<ExprRef> look_guards;

  // For people and tools.
  std::vector<InputDef> input_defs;
  std::vector<CueDef> cue_defs;
  std::vector<ClipInfo> clip_infos;
  std::vector<StateInfo> state_infos;
  std::vector<RegionInfo> region_infos;
  std::vector<TransitionInfo> transition_infos;
  std::vector<std::string> trait_names;
  std::vector<std::string> window_names;
  std::vector<std::string> files;
  std::vector<std::string> var_names;  // beside `vars`
  std::vector<Symbol> symbols;         // made by name_values(); not written anywhere

  // Made of the rest by complete(); not written anywhere.
  std::vector<std::string> images;                         // see Machine::images
  std::vector<std::vector<std::uint32_t>> image_of_frame;  // beside `clip_infos`; empty where no frame has one
  std::vector<std::vector<std::pair<std::uint32_t, std::uint32_t>>> exchanged_images;  // beside `looks`
  std::shared_ptr<const Prepared> prepared;

  template <class T>
  [[nodiscard]] static std::span<const T> view(const std::vector<T>& all, Range<T> range) {
    return std::span<const T>(all).subspan(range.begin, range.count);
  }
};

// What is told of a mark, of an action that tells, of a state; without machine, instant and number.
[[nodiscard]] inline Cue record_of(const MarkData& mark, std::uint16_t state, Edge edge, std::int32_t frame) {
  Cue out;
  out.what = Told::cue;
  out.edge = edge;
  out.cue = mark.cue;
  out.fields = mark.fields;
  out.state = state;
  out.clip = mark.clip;
  out.frame = frame;
  return out;
}
[[nodiscard]] inline Cue record_of(const ActionData& action) {
  Cue out;
  out.what = Told::cue;
  out.cue = action.cue;
  out.fields = action.fields;
  return out;
}
[[nodiscard]] inline Cue record_of(Told what, std::uint16_t state, std::uint32_t transition = kNoTransition) {
  Cue out;
  out.what = what;
  out.state = state;
  out.transition = transition;
  return out;
}
[[nodiscard]] inline Edge edge_of(FiringKind kind) {
  return kind == FiringKind::cue ? Edge::none : kind == FiringKind::span_begin ? Edge::begin : Edge::end;
}

template <class T>
[[nodiscard]] inline T& field_at(std::byte* block, std::uint32_t offset) {
  return *reinterpret_cast<T*>(block + offset);
}
template <class T>
[[nodiscard]] inline const T& field_at(const std::byte* block, std::uint32_t offset) {
  return *reinterpret_cast<const T*>(block + offset);
}
[[nodiscard]] inline BlockHeader& header_of(std::byte* block) { return *reinterpret_cast<BlockHeader*>(block); }
[[nodiscard]] inline const BlockHeader& header_of(const std::byte* block) {
  return *reinterpret_cast<const BlockHeader*>(block);
}

[[nodiscard]] inline std::uint16_t leaf_of(const MachineData& machine, const std::byte* block, std::uint16_t region) {
  return field_at<std::uint16_t>(block, machine.regions[region].leaf);
}

// Whether a state, or one inside it, is active.
[[nodiscard]] inline bool is_active(const MachineData& machine, const std::byte* block, std::uint16_t state) {
  if (state == 0) return (header_of(block).flags & kStarted) != 0;
  const StateData& data = machine.states[state];
  const std::uint16_t leaf = leaf_of(machine, block, data.region);
  return leaf != kNoIndex && leaf >= state && leaf <= data.last;
}

// Whether a state is sealed and `owner`, whose transition would leave or change it, is not within.
[[nodiscard]] inline bool keeps_out(const MachineData& machine, std::uint16_t state, std::uint16_t owner) {
  const StateData& data = machine.states[state];
  return data.sealed && !(owner >= state && owner <= data.last);
}

// The same of all states from a leaf up to the owner.
[[nodiscard]] inline bool sealed_from(const MachineData& machine, std::uint16_t owner, std::uint16_t leaf) {
  for (std::uint16_t s = leaf; s != 0 && s != owner; s = machine.states[s].parent)
    if (keeps_out(machine, s, owner)) return true;
  return false;
}

// The value of an input that is no pulse, as Instance::input_value gives it.
[[nodiscard]] FieldValue stored_value(const MachineData& machine, const std::byte* block, std::uint16_t input);

[[nodiscard]] inline bool pulse_alive(const std::byte* block, const InputData& pulse, std::int64_t at) {
  return pulse.buffer > 0 ? field_at<std::int64_t>(block, pulse.offset) >= at
                          : field_at<std::uint8_t>(block, pulse.offset) != 0;
}
inline void forget_pulse(std::byte* block, const InputData& pulse) {
  if (pulse.buffer > 0)
    field_at<std::int64_t>(block, pulse.offset) = kLongAgo;
  else
    field_at<std::uint8_t>(block, pulse.offset) = 0;
}

// blend.cpp
// Which of its clips a play shows by what inputs say. REQUIRES: it chooses.
[[nodiscard]] std::uint8_t chosen(const MachineData& machine, const std::byte* block, const PlayData& play);
// The own speed of a play, 16.16, by what inputs and variables say.
[[nodiscard]] std::int32_t speed_now(const MachineData& machine, const std::byte* block, const PlayData& play);
// The weights of a blend's points.
void blend_weights(const MachineData& machine, const std::byte* block, const BlendData& blend, std::span<double> out);

// Whether the clip at a point weighs enough to tell its cues beside the heaviest's.
[[nodiscard]] bool weighs_enough(const MachineData& machine, const std::byte* block, const PlayData& play,
                                 std::size_t point);

// compile_space.cpp: what must hold of what stands in space, whether it comes from a file or from a pack.
[[nodiscard]] bool near_pivot(double pixels);
// 0, or one by which a number can be divided.
[[nodiscard]] inline bool sound_grain(double grain) {
  return grain == 0 || (grain >= kLeastGrain && grain <= std::numeric_limits<double>::max());
}
[[nodiscard]] bool sound_shape(const Shape& shape, bool cones);
[[nodiscard]] bool sound_track(const TrackDef& track, Ticks length);
[[nodiscard]] inline bool sound_unit(double unit) { return unit > 0 && unit <= 100'000; }
[[nodiscard]] std::size_t count_tags(const MachineData& machine);
// compile_finish.cpp: an upper bound of what one instant can tell; see Machine::most_records_per_instant.
[[nodiscard]] std::uint64_t bound_of_records(const MachineData& machine);

// instance_bytes.cpp: sets what a block holds and nothing will ask for to 0: of presses that have run out, times and
// variables of states that are not active. So blocks that go on alike hash alike. REQUIRES: taken at its `now`.
void forget_what_is_over(const MachineData& machine, std::byte* block);
// Turns the bytes of each value of a block around where the processor keeps the highest first, so that hashes are the
// same everywhere.
void to_little_endian(const MachineData& machine, std::byte* block);

// ticket.cpp: whether nothing in a state ends by itself, neither a play nor a time.
[[nodiscard]] bool never_ends(const MachineData& machine, std::uint16_t state);

// Inputs, then variables, by where they lie: what expressions and their texts name them by.
void name_values(MachineData& machine);
// Makes what the engine runs by of tables that will not change, nor move, any more.
void complete(MachineData& machine);
// picture.cpp: its part of that.
void list_images(MachineData& machine);
// What an expression gives, and whether that is not 0. REQUIRES: the machine is complete.
[[nodiscard]] double number_of(const MachineData& machine, const std::byte* block, ExprRef expression);
[[nodiscard]] bool holds(const MachineData& machine, const std::byte* block, ExprRef expression);

// An expression as the dump has it: operands first.
[[nodiscard]] std::string text_of(const MachineData& machine, ExprRef expression);

// A number that no machine of this process has.
[[nodiscard]] std::uint32_t new_serial();

// A fresh block: inputs at their start, nothing entered.
void make_block(const MachineData& machine, std::byte* block);

// `speed` as 16.16: rounded half to even, clamped to [-64, 64]; a NaN gives 0.
[[nodiscard]] std::int32_t fixed_speed(double speed);

}  // namespace mobrin::detail
