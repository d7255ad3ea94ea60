// The compiler's working state, and its stages: each is one function here, in the order of kStages (stages.cpp), reads
// what those before it made and adds its own tables; stage_text.cpp has each one's text.
#pragma once

#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <string_view>
#include <vector>

#include "compile/timeline.hpp"

namespace mobrin::detail {

// A node of the tree that paths are looked up in: a state or a region.
struct Node {
  std::string name;
  std::int32_t parent = -1;
  bool is_region = false;
  std::uint16_t index = 0;  // state or region
  std::vector<std::int32_t> children;
  const StateDef* def = nullptr;  // of a state
};

// Orders (node, name) pairs, whatever the name is held in.
struct ByNodeAndName {
  using is_transparent = void;
  template <class A, class B>
  bool operator()(const A& a, const B& b) const {
    return a.first != b.first ? a.first < b.first : std::string_view(a.second) < std::string_view(b.second);
  }
};

class Compilation {
 public:
  explicit Compilation(const MachineDef& definition) : def(definition), data(std::make_unique<MachineData>()) {}

  // What a name in a list is and where: used for the nearest name of a misspelt one.
  void report(FindingCode code, Place place, std::string message, std::string remedy, std::string subject = {});
  void unknown(std::string_view what, const Text& name, const std::vector<std::string>& known, std::string_view advice);
  // Checks a declared name and that it is new in `taken`.
  bool declare(std::string_view what, const Text& name, std::set<std::string, std::less<>>& taken);
  bool within(std::string_view what, std::size_t count, std::size_t most, Place place);
  [[nodiscard]] bool sound() const { return !has_errors(findings); }

  // compile.cpp
  void compile_inputs();
  void compile_cues();
  void finish();
  // compile_block.cpp
  void lay_out();
  void lay_out_timers(const std::function<std::uint32_t(std::size_t)>& take);
  struct Needs {
    bool moves = false, speed = false, passes = false, choice = false, fades = false;
  };
  [[nodiscard]] Needs needs_of(std::uint16_t region) const;
  [[nodiscard]] bool changes(std::uint16_t owner, std::uint16_t region) const;
  void lay_out_memories(const std::function<std::uint32_t(std::size_t)>& take);
  // The index of the resolved fields of `cue` with `overrides`, which are checked.
  std::uint32_t resolve_fields(std::uint16_t cue, const std::vector<FieldDef>& overrides, Place place);
  std::optional<std::uint16_t> find_cue(const Text& name);

  // compile_clips.cpp
  void compile_clips();
  std::optional<std::uint16_t> window_number(std::string_view name);

  // compile_states.cpp
  void flatten();
  void compile_states();  // actions, variables' starts, speeds, blends
  void compile_plays();   // compile_plays.cpp
  Range<ActionData> compile_actions(const std::vector<ActionDef>& actions, std::int32_t node);
  [[nodiscard]] std::string elsewhere(const ExprProblem& problem) const;
  CompiledExpr compile_text(const Text& source, std::int32_t node);
  // The state that `path` names as seen from `node`; empty where there is none.
  [[nodiscard]] std::optional<std::uint16_t> find_state(std::string_view path, std::int32_t node) const;
  // Names and paths. REQUIRES: the tree is whole.
  [[nodiscard]] const std::vector<std::string>& all_state_names() const;
  [[nodiscard]] std::string path_of(std::int32_t node) const;
  [[nodiscard]] const StateDef& source_of(std::size_t state) const {
    return state == 0 ? def.root : *nodes[static_cast<std::size_t>(node_of_state[state])].def;
  }
  // It says what it plays, and that is wrong: told already, and no reason to tell what follows from it.
  [[nodiscard]] static bool plays_wrongly(const StateDef& source, const PlayData& play) {
    const bool says = !source.clip.empty() || !source.sequence.empty() || source.clip_by || source.blend ||
                      source.length || source.pose;
    return says && play.type == PlayType::nothing;
  }
  [[nodiscard]] std::int32_t node_of(std::uint16_t state) const { return node_of_state[state]; }
  // The state entered last on the way down from `state`, or empty where regions split the way.
  [[nodiscard]] std::optional<std::uint16_t> single_leaf(std::uint16_t state) const;

  // compile_go.cpp
  void compile_go();

  // compile_space.cpp
  void compile_space();

  // timeline.cpp
  void compile_stops();

  const MachineDef& def;
  std::unique_ptr<MachineData> data;
  std::vector<Finding> findings;

  std::vector<Node> nodes;
  std::map<std::pair<std::int32_t, std::string>, std::int32_t, ByNodeAndName> child_of;
  std::vector<std::int32_t> node_of_state;
  std::map<std::string, std::uint16_t, std::less<>> inputs, cues, clips, windows, traits;
  std::vector<std::vector<std::uint32_t>> vars_of_node;  // into data->vars: those declared at a node
  mutable std::vector<std::string> state_names;          // once they were asked for
  std::size_t unknown_names = 0;                         // told so far
  std::size_t segments_in_turn = 0;                      // of sequences so far

 private:
  void flatten_state(const StateDef& state, std::int32_t node, std::uint16_t depth, std::uint16_t parent,
                     std::uint16_t region);
  void check_kind(const StateDef& source);
  void declare_traits(const StateDef& source, std::uint16_t index);
  void declare_vars(const StateDef& source, std::int32_t node, std::uint16_t index);
  void flatten_inner(const StateDef& source, std::int32_t node, std::uint16_t index, std::uint16_t depth);
  void flatten_regions(const StateDef& source, std::int32_t node, std::uint16_t index, std::uint16_t depth);
  void flatten_region(const RegionDef& inner, std::int32_t node, std::uint16_t region, std::uint16_t depth);
  void flatten_children(const std::vector<StateDef>& states, std::int32_t node, std::uint16_t depth);
  std::uint16_t add_region(std::uint16_t owner);
  // compile_plays.cpp
  void compile_play(const StateDef& state, std::uint16_t index);
  void compile_sequence(const StateDef& source, PlayData& play, StateInfo& info);
  void compile_clip_by(const ClipByDef& by, const StateDef& source, PlayData& play, StateInfo& info);
  void check_each_loop(const StateDef& source, const PlayData& play);
  void add_played(PlayData& play, std::uint16_t clip);
  std::optional<std::uint16_t> find_clip(const Text& name);

  void compile_transition(const GoDef& go, std::uint16_t owner);
  bool compile_event(const GoDef& go, std::uint16_t owner, TransitionData& out);
  bool compile_during(const GoDef& go, std::uint16_t owner, TransitionData& out);
  bool compile_target(const GoDef& go, std::uint16_t owner, TransitionData& out);
  bool compile_start(const GoDef& go, TransitionData& out);
  void compile_fade(const GoDef& go, TransitionData& out);
  void compile_marks(const ClipMarksDef& marks);
  // compile_space.cpp
  void check_reach_fields();
  void compile_zone(const ZoneDef& zone);
  void check_tracks(const ClipInfo& clip);
  void compile_blend(const BlendDef& blend, const StateDef& source, std::uint16_t index);
  void compile_blend_axes(const StateDef& source, std::uint16_t index, std::int32_t node);
  bool check_stretch(const std::string& what, const StretchDef& stretch, const ClipInfo& clip, Place place);
  void check_boxes(const ClipInfo& clip);
  void check_mark(const MarkDef& mark, const ClipInfo& clip, ClipData& out);
};

// --- timeline.cpp ---

// The borders of a clip's frames: entry i is where frame i begins, the last where the last one ends.
[[nodiscard]] std::vector<std::int64_t> frame_borders(const ClipDef& clip);
// Fills length, cycle, turn, passes, parts and segments; `index` is the clip's own.
void make_timeline(const ClipDef& clip, std::uint16_t index, const std::vector<std::int64_t>& borders, ClipData& out);
// These clips in turn, each with all its passes, as one clip played once. REQUIRES: each ends.
[[nodiscard]] ClipData make_sequence(const MachineData& data, std::span<const std::uint16_t> clips);
// Where the way back passes `time` of the clip's own time, on the cycle; -1 for nowhere. REQUIRES: no sequence.
[[nodiscard]] std::int64_t mirrored_time(const ClipData& clip, std::int64_t time);
}  // namespace mobrin::detail
