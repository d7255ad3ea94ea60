// Compiling what states do: actions on entering, leaving and each loop, speeds, axes of blends.
#include <algorithm>
#include <cmath>

#include "compile/compile.hpp"

namespace mobrin::detail {
namespace {

class StatesStage {
 public:
  StatesStage(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues)
      : work_(work), m_(work.data), tree_(tree), texts_(work, tree, inputs, cues) {}

  void run() {
    for (std::size_t s = 0; s < m_.states.size(); ++s) {
      const std::int32_t node = tree_.node_of(s);
      const StateDef& source = tree_.source_of(s);
      m_.states[s].enter = texts_.actions(source.enter, node);
      m_.states[s].exit = texts_.actions(source.exit, node);
      m_.states[s].each_loop = texts_.actions(source.each_loop, node);
      if (s == 0) continue;  // it plays nothing
      check_each_loop(source, m_.states[s].play);
      compile_blend_axes(source, static_cast<std::uint16_t>(s), node);
      PlayData& play = m_.states[s].play;
      if (play.chooses()) take_in(m_.choice_regions, m_.states[s].region);
      if (play.blend != kNoIndex) take_in(m_.speed_regions, m_.states[s].region);
      if (source.speed.empty() || plays_wrongly(source, play)) continue;
      if (!play.moves()) {
        work_.report(FindingCode::conflicting_keys, source.speed.place,
                     "\"" + source.name.text + "\" has a speed but nothing that plays",
                     "Give it a `clip:` or a `length:`.", source.name.text);
        continue;
      }
      const CompiledExpr speed = texts_.expression(source.speed, node, ValueType::number);
      if (speed.ref.empty()) continue;
      if (speed.type != ValueType::whole && speed.type != ValueType::number) {
        work_.report(FindingCode::wrong_operand, source.speed.place,
                     "the speed \"" + source.speed.text + "\" is " + std::string(text_of(speed.type)),
                     "A speed is a number: 1 is the clip's own pace, -1 backwards.", source.speed.text);
      } else if (speed.constant && std::abs(*speed.constant) > 64) {
        work_.report(FindingCode::bad_value, source.speed.place, "the speed " + source.speed.text + " is out of range",
                     "Speeds lie between -64 and 64.", source.name.text);
      } else if (speed.constant && play.blend == kNoIndex) {
        play.speed = fixed_speed(*speed.constant);
      } else {  // that of a blend is rounded once, when its clips' paces are in it
        play.speed_expression = speed.ref;
        take_in(m_.speed_regions, m_.states[s].region);
      }
    }
  }

 private:
  // So that what is taken anew at one instant is told in file order: numbers of regions inside others come later.
  static void take_in(std::vector<std::uint16_t>& regions, std::uint16_t region) {
    if (std::find(regions.begin(), regions.end(), region) == regions.end()) regions.push_back(region);
  }
  void check_each_loop(const StateDef& source, const PlayData& play) {
    if (source.each_loop.empty() || plays_wrongly(source, play)) return;
    if (play.type != PlayType::clip)
      return work_.report(FindingCode::meaningless_event, source.place,
                          "\"" + source.name.text + "\" has `each_loop:` but plays no clip",
                          "Give it a clip that loops.", source.name.text);
    const ClipData& clip = m_.clips[m_.played[play.clips.begin].clip];
    if (clip.passes == 1 && clip.length > 0)
      work_.report(FindingCode::never_ends, source.place,
                   "`each_loop:` of \"" + source.name.text + "\" never runs: its play does not loop",
                   source.sequence.empty() ? "Let the clip loop."
                                           : "Clips in turn have no loop moments; use cues at their ends.",
                   source.name.text);
  }

  // Expressions of blends, once everything has its place in the block.
  void compile_blend_axes(const StateDef& source, std::uint16_t index, std::int32_t node) {
    if (m_.states[index].play.blend == kNoIndex) return;
    BlendData& out = m_.blends[m_.states[index].play.blend];
    for (const auto& [text, to] : {std::pair(&source.blend->x, &out.x), std::pair(&source.blend->y, &out.y)}) {
      if (text->empty()) continue;
      const CompiledExpr axis = texts_.expression(*text, node, ValueType::number);
      if (axis.ref.empty()) continue;
      if (axis.type != ValueType::whole && axis.type != ValueType::number)
        work_.report(FindingCode::wrong_operand, text->place, "\"" + text->text + "\" is no number",
                     "An axis of a blend is a number.", text->text);
      *to = axis.ref;
    }
  }

  Work& work_;
  MachineData& m_;
  const StateTree& tree_;
  Texts texts_;
};

}  // namespace

void compile_states(Work& work, const StateTree& tree, const NameTable& inputs, const NameTable& cues) {
  StatesStage(work, tree, inputs, cues).run();
}

std::int32_t fixed_speed(double speed) {
  if (std::isnan(speed)) return 0;
  return static_cast<std::int32_t>(std::nearbyint(std::clamp(speed, -64.0, 64.0) * kOne));
}

}  // namespace mobrin::detail
