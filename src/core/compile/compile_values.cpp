// What a definition made in code can say and no file: words of a list that are not in it, numbers that are none, two of
// what there is one of.
#include "compile/compile.hpp"

namespace mobrin::detail {
namespace {

class Values {
 public:
  explicit Values(Work& work) : work_(work) {}

  void run() {
    for (const ClipDef& clip : work_.def.clips) look_at(clip);
    for (const ClipMarksDef& marks : work_.def.marks) look_at(marks);
    for (const ReachDef& reach : work_.def.reaches) tags(reach.hits, reach.name), tags(reach.spares, reach.name);
    for (const ZoneDef& zone : work_.def.zones) tags(zone.tags, zone.name);
    for (const ClaimDef& claim : work_.def.claims) look_at(claim);
    for (const KeysDef& keys : work_.def.keys) look_at(keys);
    look_at_root();
    look_at(work_.def.root);
  }
  [[nodiscard]] bool words_are_known() const { return known_; }

 private:
  void wrong(Place place, std::string message, std::string remedy, const std::string& subject,
             FindingCode code = FindingCode::bad_value) {
    work_.report(code, place, std::move(message), std::move(remedy), subject);
  }
  // A word of a list, of which `last` is the last: `what` of what is called `subject`.
  template <class Word>
  void word(Word value, Word last, Place place, const char* what, const std::string& subject, const char* type) {
    if (value <= last) return;
    known_ = false;
    wrong(place, std::string(what) + " \"" + subject + "\" is none: " + std::to_string(static_cast<int>(value)),
          std::string("Write one that ") + type + " has.", subject);
  }

  [[nodiscard]] static bool lasts(Ticks time) { return time.count >= 0 && time.count <= kMaxDurationTicks; }

  void look_at(const ClipDef& clip) {
    word(clip.play.kind, PlayKind::back_and_forth, clip.name.place, "the play mode of the clip", clip.name.text,
         "PlayKind");
    const auto both = [&](const std::string& one, const std::string& other) {
      wrong(clip.name.place, "the clip \"" + clip.name.text + "\" has both " + one + " and " + other,
            "Keep one of them.", clip.name.text, FindingCode::conflicting_keys);
    };
    if (clip.length.count != 0 && !clip.frames.empty()) return both("frames", "a length");
    if (clip.length.count != 0 && clip.fps.num != 0) return both("a rate", "a length");
    for (const FrameDef& frame : clip.frames) {
      if (frame.time.count == 0) continue;
      if (clip.fps.num != 0) return both("a rate", "frames with a time");
      if (frame.hold != 1) return both("a frame with a hold", "a time");
    }
  }

  void look_at(const ClipMarksDef& marks) {
    const std::string& clip = marks.clip.text;
    for (const auto& [what, at] : {std::pair("pivot", &marks.pivot), std::pair("offset", &marks.offset)})
      if (*at && !(near_pivot((*at)->first) && near_pivot((*at)->second)))
        wrong(marks.clip.place, std::string("the ") + what + " of \"" + clip + "\" is out of range",
              "It lies within 1000000 pixels.", clip);
    for (const OffsetDef& offset : marks.offsets)
      if (!near_pivot(offset.x) || !near_pivot(offset.y))
        wrong(offset.place, "an offset of \"" + clip + "\" is out of range", "It lies within 1000000 pixels.", clip);
    for (const MarkDef& mark : marks.marks) {
      word(mark.at, MarkAt::times, mark.place, "the place of the cue", mark.cue.text, "MarkAt");
      word(mark.way, MarkWay::backward, mark.place, "the way of the cue", mark.cue.text, "MarkWay");
    }
    for (const WindowDef& window : marks.windows)
      if (window.stretches.empty())
        wrong(window.name.place, "the window \"" + window.name.text + "\" of \"" + clip + "\" is never open",
              "Give it a stretch of frames or of time.", window.name.text);
    for (const BoxDef& box : marks.boxes) {
      tags(box.hits, box.name), tags(box.spares, box.name);
      if (!lasts(box.every))
        wrong(box.place, "the box \"" + box.name.text + "\" hits again after an impossible time",
              "`every` lasts 0 to 10 hours.", box.name.text);
    }
    for (const TrackDef& track : marks.tracks)
      word(track.curve, TrackCurve::cubic, track.name.place, "the curve of the track", track.name.text, "TrackCurve");
  }

  void tags(const std::vector<std::string>& all, const Text& of) {
    for (const std::string& tag : all)
      if (tag.empty()) wrong(of.place, "\"" + of.text + "\" names a tag without a name", "Take it out.", of.text);
  }

  void look_at(const ClaimDef& claim) {
    const std::string name = "the claim \"" + claim.name.text + "\"";
    word(claim.kind, ClaimKind::can, claim.name.place, "the kind of the claim", claim.name.text, "ClaimKind");
    const bool one = claim.kind == ClaimKind::can ? !claim.second.empty() : !claim.first.empty();
    if (!one) wrong(claim.name.place, name + " says nothing", "Give it an expression.", claim.name.text);
    if (!lasts(claim.within))
      wrong(claim.name.place, name + " has an impossible time", "`within` lasts 0 to 10 hours.", claim.name.text);
  }

  void look_at(const KeysDef& keys) {
    for (const InputDef& input : work_.def.inputs)
      if (input.name.text == keys.input.text) return;
    std::vector<std::string> known;
    for (const InputDef& input : work_.def.inputs) known.push_back(input.name.text);
    work_.unknown("input", keys.input, known, "Inputs are declared under `inputs:`.");
  }

  // What is of states, not of what is around all of them.
  void look_at_root() {
    const StateDef& root = work_.def.root;
    const bool plays = !root.clip.empty() || !root.sequence.empty() || root.clip_by || root.blend || root.pose ||
                       root.length || !root.speed.empty() || !root.each_loop.empty();
    for (const auto& [is_so, what] :
         {std::pair(plays, "plays something"), std::pair(root.final, "is final"), std::pair(root.sealed, "is sealed"),
          std::pair(root.linger.count != 0, "lingers")})
      if (is_so)
        wrong(root.place, std::string("the root, which is around all states, ") + what,
              "It has `vars`, `enter`, `exit`, `go`, and states or regions; the rest is a state's.", "",
              FindingCode::conflicting_keys);
  }
  void look_at(const StateDef& state) {
    if (state.blend && state.blend->x.empty())
      wrong(state.blend->place, "\"" + state.name.text + "\" has a blend without an axis", "Give `x` an expression.",
            state.name.text, FindingCode::missing_key);
    for (const auto* actions : {&state.enter, &state.exit, &state.each_loop}) look_at(*actions, state.place);
    for (const GoDef& go : state.go) look_at(go);
    for (const StateDef& inner : state.states) look_at(inner);
    for (const RegionDef& region : state.regions)
      for (const StateDef& inner : region.states) look_at(inner);
  }
  void look_at(const GoDef& go) {
    word(go.at, GoAt::loop, go.place, "the event of the rule to", go.to.text, "GoAt");
    word(go.start.kind, StartKind::time, go.place, "the start of the rule to", go.to.text, "StartKind");
    word(go.fade_cues, FadeCues::both, go.place, "what tells cues in the fade of the rule to", go.to.text, "FadeCues");
    if (!go.during.empty() && go.during_stretch)
      wrong(go.place, "the rule to \"" + go.to.text + "\" waits for a window and for frames", "Keep one of them.",
            go.to.text, FindingCode::conflicting_keys);
    look_at(go.actions, go.place);
  }
  void look_at(const std::vector<ActionDef>& actions, Place place) {
    for (const ActionDef& action : actions) {
      if (action.assign.empty() || (action.tell.empty() && action.fields.empty())) continue;
      const std::string& text = action.assign.text;
      wrong(place,
            "the action `" + text + "` " +
                (action.tell.empty() ? "has fields of a cue" : "also tells \"" + action.tell.text + "\""),
            "An action assigns or tells; write two.", text, FindingCode::conflicting_keys);
    }
  }

  Work& work_;
  bool known_ = true;
};

}  // namespace

bool check_values(Work& work) {
  Values values(work);
  values.run();
  return values.words_are_known();
}

}  // namespace mobrin::detail
