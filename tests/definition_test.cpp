// Definitions made in code: what no file would say is refused too, with its name and what to write.
#include <cmath>
#include <functional>
#include <limits>

#include "mobrin/core/builder.hpp"
#include "support.hpp"

namespace mobrin::test {
namespace {

struct WrongInCode {
  const char* name;
  std::function<void(MachineDef&)> spoil;
  const char* told;
};

// A bee with one of everything.
MachineDef whole_bee() {
  MachineBuilder builder("bee");
  builder.input("near", FloatInput{5, 0, 10, 0}).input("jars", IntInput{1, 0, 9}).input("veiled", BoolInput{});
  builder.input("tool", ChoiceInput{{"none", "net"}, {}}).pulse("swing", milliseconds(100));
  builder.cue("hum", "sound", {{"gain", 0.5}});
  builder.clip("fly", 4, {8, 1}, PlayMode::loop());
  builder.clip("sting", 3, {12, 1}, PlayMode::once());
  ClipMarksDef& marks = builder.mark("fly", 1, "hum").marks("fly");
  marks.windows.push_back({"again", {{false, 1, 2, {}, {}}}});
  marks.boxes.push_back({"body", "body", {}, CircleShape{0, 0, 4}, {}, {}, {}, {}});
  marks.tracks.push_back({"lid", TrackCurve::linear, {{Ticks(0), 0, 0, 0}, {milliseconds(250), 40, 0, 0}}});
  StateDef fly, sting;
  fly.name = "fly", fly.clip = "fly", fly.traits = {"airborne"}, fly.vars = {{"tired", 0.5}};
  sting.name = "sting", sting.clip = "sting";
  GoDef swing, done;
  swing.pulse = "swing", swing.to = "sting", swing.during = "again", swing.place.line = 7;
  done.at = GoAt::end, done.to = "fly";
  fly.go.push_back(swing), sting.go.push_back(done);
  builder.state(fly).state(sting).initial("fly");
  return builder.definition();
}

class Definitions : public testing::TestWithParam<WrongInCode> {};

TEST_P(Definitions, ThatAreWrongAreRefused) {
  MachineDef definition = whole_bee();
  ASSERT_EQ(joined(compile(definition).findings), "");
  GetParam().spoil(definition);
  const Compiled compiled = compile(definition);
  EXPECT_EQ(joined(compiled.findings), GetParam().told);
  EXPECT_FALSE(compiled.machine);
}

constexpr double kInfinite = std::numeric_limits<double>::infinity();
template <class T>
T beyond() {
  return static_cast<T>(99);
}
StateDef& fly(MachineDef& d) { return d.root.states[0]; }
// It blends in place of its clip.
BlendDef& blend(MachineDef& d) {
  fly(d).clip = "";
  return fly(d).blend.emplace(
      BlendDef{"near", {}, {{0, 0, "fly", false, false}, {1, 0, "fly", false, false}}, 0, {}, {}});
}
GoDef& swing(MachineDef& d) { return d.root.states[0].go[0]; }

const WrongInCode kWrongInCode[] = {
    // clips
    {"AClipWithoutAName", [](MachineDef& d) { d.clips.push_back(d.clips[1]), d.clips[2].name = ""; },
     "error: \"\" cannot be the name of a clip [bad-name]\n    A name is a letter, then letters, digits or underscores "
     "(at most 64), and no word of the expression language.\n"},
    {"AClipTwice", [](MachineDef& d) { d.clips.push_back(d.clips[1]), d.clips[2].name = "fly"; },
     "error: there is a clip \"fly\" already [duplicate-name]\n    Give it another name.\n"},
    {"TooManyFrames", [](MachineDef& d) { d.clips[0].frames = plain_frames(10'001); },
     "error: the clip \"fly\" has 10001 frames [too-large]\n    At most 10000 are supported.\n"},
    {"ANegativeRate",
     [](MachineDef& d) {
       d.clips[0].fps = {-8, 1};
     },
     "error: the clip \"fly\" has an impossible rate [bad-value]\n    `fps:` lies above 0.\n"},
    {"ARateOverNothing",
     [](MachineDef& d) {
       d.clips[0].fps = {8, 0};
     },
     "error: the clip \"fly\" has an impossible rate [bad-value]\n    `fps:` lies above 0.\n"},
    {"AHoldOfNothing", [](MachineDef& d) { d.clips[0].frames[1].hold = 0; },
     "error: the clip \"fly\" has a frame with an impossible hold or time [bad-value]\n    A hold is 1 to 10000, a "
     "time up to 10 hours.\n"},
    {"PassesThatCannotBe", [](MachineDef& d) { d.clips[0].play.passes = -1; },
     "error: the clip \"fly\" plays an impossible number of times [bad-value]\n    Loops can be counted from 1 to "
     "10000.\n"},
    {"APlayOfNoKind", [](MachineDef& d) { d.clips[0].play.kind = beyond<PlayKind>(); },
     "error: the play mode of the clip \"fly\" is none: 99 [bad-value]\n    Write one that PlayKind has.\n"},
    {"ANegativeLength",
     [](MachineDef& d) { d.clips[0].frames.clear(), d.clips[0].fps = {}, d.clips[0].length = Ticks(-5); },
     "error: the clip \"fly\" lasts less than 1 ms [bad-value]\n    Check its `fps:` and holds.\n"},
    {"FramesAndALength", [](MachineDef& d) { d.clips[0].length = seconds(2); },
     "error: the clip \"fly\" has both frames and a length [conflicting-keys]\n    Keep one of them.\n"},
    // marks
    {"MarksTwice", [](MachineDef& d) { d.marks.push_back(d.marks[0]); },
     "error: the clip \"fly\" has marks already [duplicate-name]\n    Put all marks of a clip in one place.\n"},
    {"ASpanThatEndsBeforeItBegins",
     [](MachineDef& d) { d.marks[0].marks[0] = {"hum", MarkAt::frames, 3, 1, {}, {}, MarkWay::both, {}, {}}; },
     "error: the span \"hum\" ends before it begins [bad-value]\n    Write the earlier frame first.\n"},
    {"AMarkNowhere", [](MachineDef& d) { d.marks[0].marks[0].at = beyond<MarkAt>(); },
     "error: the place of the cue \"hum\" is none: 99 [bad-value]\n    Write one that MarkAt has.\n"},
    {"AMarkOfNoWay", [](MachineDef& d) { d.marks[0].marks[0].way = beyond<MarkWay>(); },
     "error: the way of the cue \"hum\" is none: 99 [bad-value]\n    Write one that MarkWay has.\n"},
    {"AMarkBehindTheClip", [](MachineDef& d) { d.marks[0].marks[0].frame = 4; },
     "error: frame 4 is not in the clip \"fly\" [outside-clip]\n    It has 4 frames, 0 to 3.\n"},
    {"AMarkBeforeTheClip", [](MachineDef& d) { d.marks[0].marks[0].frame = -1; },
     "error: frame -1 is not in the clip \"fly\" [outside-clip]\n    It has 4 frames, 0 to 3.\n"},
    {"AWindowBackwards", [](MachineDef& d) { d.marks[0].windows[0].stretches[0].first = 3; },
     "error: the window \"again\" ends before it begins in \"fly\" [outside-clip]\n    It has 4 frames, 0 to 3.\n"},
    {"AWindowOfNothing", [](MachineDef& d) { d.marks[0].windows[0].stretches.clear(); },
     "error: the window \"again\" of \"fly\" is never open [bad-value]\n    Give it a stretch of frames or of time.\n"},
    {"ABoxCalledOtherwise", [](MachineDef& d) { d.marks[0].boxes[0].name = "1x"; },
     "error: \"1x\" cannot be the name of a box [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"ABoxOfNoSize",
     [](MachineDef& d) {
       d.marks[0].boxes[0].shape = CircleShape{0, 0, kInfinite};
     },
     "error: the box \"body\" has no size, or is out of range [bad-value]\n    A rect is [left, bottom, width, "
     "height], a circle [x, y, radius], in pixels from the pivot; sizes are above 0, all within 1000000.\n"},
    {"ATrackWithoutKeys", [](MachineDef& d) { d.marks[0].tracks[0].keys.clear(); },
     "error: the track \"lid\" has no keys [missing-key]\n    Give it one at least, such as `{0: 0, 5: 40}`.\n"},
    {"ATrackOfNoNumber", [](MachineDef& d) { d.marks[0].tracks[0].keys[1].value = std::nan(""); },
     "error: a key of \"lid\" is no number [bad-value]\n    Write finite numbers.\n"},
    {"ATrackOutOfOrder", [](MachineDef& d) { d.marks[0].tracks[0].keys[1].time = Ticks(0); },
     "error: the keys of \"lid\" do not rise in time [bad-value]\n    Write them in order, one for each time.\n"},
    {"ATrackOfNoCurve", [](MachineDef& d) { d.marks[0].tracks[0].curve = beyond<TrackCurve>(); },
     "error: the curve of the track \"lid\" is none: 99 [bad-value]\n    Write one that TrackCurve has.\n"},
    {"APivotNowhere",
     [](MachineDef& d) {
       d.marks[0].pivot = {kInfinite, 0};
     },
     "error: the pivot of \"fly\" is out of range [bad-value]\n    It lies within 1000000 pixels.\n"},
    {"AnOffsetNowhere",
     [](MachineDef& d) {
       d.marks[0].offsets = {{0, 1, std::nan(""), 0, {}}};
     },
     "error: an offset of \"fly\" is out of range [bad-value]\n    It lies within 1000000 pixels.\n"},
    {"AnOffsetOfNoFrame",
     [](MachineDef& d) {
       d.marks[0].offsets = {{0, 9, 1, 0, {}}};
     },
     "error: the offset reaches past the clip \"fly\" [outside-clip]\n    It has 4 frames, 0 to 3.\n"},
    // inputs
    {"ARangeBackwards",
     [](MachineDef& d) {
       d.inputs[1].kind = IntInput{0, 5, 3};
     },
     "error: the input \"jars\" has a range that ends before it begins [bad-value]\n    `min:` is at most `max:`.\n"},
    {"ARangeOfNoNumber",
     [](MachineDef& d) {
       d.inputs[0].kind = FloatInput{0, std::nan(""), 3, 0};
     },
     "error: the input \"near\" has a number that does not fit [bad-value]\n    Numbers are held in 32 bits; a grain "
     "is 0, or 1.4e-45 and more.\n"},
    {"ANegativeGrain",
     [](MachineDef& d) {
       d.inputs[0].kind = FloatInput{0, 0, 3, -1};
     },
     "error: the input \"near\" has a number that does not fit [bad-value]\n    Numbers are held in 32 bits; a grain "
     "is 0, or 1.4e-45 and more.\n"},
    {"AGrainTooFineToDivideBy",
     [](MachineDef& d) {
       d.inputs[0].kind = FloatInput{0, 0, 3, 1e-320};
     },
     "error: the input \"near\" has a number that does not fit [bad-value]\n    Numbers are held in 32 bits; a grain "
     "is 0, or 1.4e-45 and more.\n"},
    {"ABufferBeforeItself", [](MachineDef& d) { d.inputs[4].kind = PulseInput{Ticks(-1)}; },
     "error: the input \"swing\" has an impossible buffer [bad-value]\n    A buffer lasts 0 to 10 hours.\n"},
    {"AChoiceOfNothing", [](MachineDef& d) { d.inputs[3].kind = ChoiceInput{}; },
     "error: the input \"tool\" needs 1 to 255 choices [bad-value]\n    List them: `one_of: [a, b]`.\n"},
    {"AChoiceThatIsNone",
     [](MachineDef& d) {
       d.inputs[3].kind = ChoiceInput{{"a", "b"}, "c"};
     },
     "error: there is no choice \"c\" [unknown-name]\n    Start with one of the choices. There is a, b.\n"},
    {"AFieldOfNoNumber", [](MachineDef& d) { d.cues[0].fields[0].value = kInfinite; },
     "error: the field \"gain\" is not finite [bad-value]\n    Write a number.\n"},
    // states
    {"TooManyClipsInTurn", [](MachineDef& d) { fly(d).clip = "", fly(d).sequence.assign(70'000, "sting"); },
     "error: \"fly\" plays too many clips in turn [too-large]\n    At most 256 are supported.\n"},
    {"ALengthThatCannotBe", [](MachineDef& d) { fly(d).clip = "", fly(d).length = Ticks(-1); },
     "error: \"fly\" has an impossible length [bad-value]\n    It lasts 1 ms to 10 hours.\n"},
    {"ALingerBeforeItself",
     [](MachineDef& d) {
       d.root.states.push_back({}), d.root.states[2].name = "gone", d.root.states[2].final = true,
                                    d.root.states[2].linger = Ticks(-1);
     },
     "error: \"gone\" has an impossible linger [bad-value]\n    It lasts 0 to 10 hours.\n"},
    {"AVariableOfNoNumber", [](MachineDef& d) { fly(d).vars[0].start = std::nan(""); },
     "error: the variable \"tired\" starts at no finite number [bad-value]\n    Numbers are held in 32 bits.\n"},
    {"AVariableCalledAsAnInput", [](MachineDef& d) { fly(d).vars[0].name = "near"; },
     "error: \"near\" is the name of an input already [duplicate-name]\n    Give the variable another name.\n"},
    {"AStateCalledBack",
     [](MachineDef& d) { fly(d).name = "back", d.root.initial = "back", d.root.states[1].go[0].to = "back"; },
     "error: \"back\" cannot be the name of a state [bad-name]\n    `to: back` has a meaning of its own.\n"},
    {"MoreTraitsThanBits",
     [](MachineDef& d) {
       for (int i = 0; i < 65; ++i) fly(d).traits.emplace_back("t" + std::to_string(i));
     },
     "error: more than 64 traits [too-large]\n    At most 64 are supported.\n"},
    {"APoseBehindTheClip", [](MachineDef& d) { fly(d).pose = 4; },
     "error: frame 4 is not in the clip \"fly\" [outside-clip]\n    It has 4 frames, numbered from 0.\n"},
    // rules
    {"AFadeBeforeItself", [](MachineDef& d) { swing(d).fade = Ticks(-1); },
     "7:0: error: an impossible `fade:` [bad-value]\n    It lasts 0 to 10 hours.\n"},
    {"AfterBeforeItself", [](MachineDef& d) { swing(d).pulse = "", swing(d).after = Ticks(-1); },
     "7:0: error: an impossible `after:` [bad-value]\n    It lasts 0 to 10 hours.\n"},
    {"FramesBackwards",
     [](MachineDef& d) {
       swing(d).during = "", swing(d).during_stretch = StretchDef{false, 3, 1, {}, {}};
     },
     "7:0: error: `during:` with frames that run backwards [bad-value]\n    Write the earlier frame first.\n"},
    {"TimesBackwards",
     [](MachineDef& d) {
       swing(d).during = "", swing(d).during_stretch = StretchDef{true, 0, 0, milliseconds(20), milliseconds(20)};
     },
     "7:0: error: `during:` with times that run backwards [bad-value]\n    Write the earlier time first.\n"},
    {"AtWhatIsNothing", [](MachineDef& d) { swing(d).pulse = "", swing(d).at = beyond<GoAt>(); },
     "7:0: error: the event of the rule to \"sting\" is none: 99 [bad-value]\n    Write one that GoAt has.\n"},
    {"AStartOfNoKind", [](MachineDef& d) { swing(d).start.kind = beyond<StartKind>(); },
     "7:0: error: the start of the rule to \"sting\" is none: 99 [bad-value]\n    Write one that StartKind has.\n"},
    {"AStartBehindTheClip",
     [](MachineDef& d) {
       swing(d).start = {StartKind::frame, 7, {}};
     },
     "error: frame 7 is not in the clip that \"sting\" plays [outside-clip]\n    It has 3 frames, numbered from 0.\n"},
    {"AStartAfterTheClip",
     [](MachineDef& d) {
       swing(d).start = {StartKind::time, 0, seconds(9), {}};
     },
     "error: `start: 9s` does not lie in what \"sting\" plays [outside-clip]\n    It lasts 250ms.\n"},
    {"AStartBeforeTheClip",
     [](MachineDef& d) {
       swing(d).start = {StartKind::time, 0, Ticks(-1), {}};
     },
     "error: `start: -1 ticks` does not lie in what \"sting\" plays [outside-clip]\n    It lasts 250ms.\n"},
    {"AFadeThatTellsNothingKnown",
     [](MachineDef& d) { swing(d).fade = milliseconds(50), swing(d).fade_cues = beyond<FadeCues>(); },
     "7:0: error: what tells cues in the fade of the rule to \"sting\" is none: 99 [bad-value]\n    Write one that "
     "FadeCues has.\n"},
    {"AnActionOfNothing", [](MachineDef& d) { swing(d).actions.emplace_back(); },
     "error: \"\" is no action [bad-expression]\n    Write `variable = expression`, or `tell: cue`.\n"},
    {"AnActionOfTwo", [](MachineDef& d) { swing(d).actions.emplace_back("tired = 1").tell = "hum"; },
     "7:0: error: the action `tired = 1` also tells \"hum\" [conflicting-keys]\n    An action assigns or tells; write "
     "two.\n"},
    {"AFrameWithATimeInARate", [](MachineDef& d) { d.clips[0].frames[1].time = seconds(1); },
     "error: the clip \"fly\" has both a rate and frames with a time [conflicting-keys]\n    Keep one of them.\n"},
    {"ARateOfALength", [](MachineDef& d) { d.clips[1].frames.clear(), d.clips[1].length = seconds(1); },
     "error: the clip \"sting\" has both a rate and a length [conflicting-keys]\n    Keep one of them.\n"},
    {"AHoldAndATime",
     [](MachineDef& d) {
       d.clips[1].fps = {};
       for (auto& f : d.clips[1].frames) f.time = seconds(1), f.hold = 2;
     },
     "error: the clip \"sting\" has both a frame with a hold and a time [conflicting-keys]\n    Keep one of them.\n"},
    {"AClipCalledOtherwise",
     [](MachineDef& d) {
       d.clips.push_back(d.clips[1]);
       d.clips[2].name = "1 x";
     },
     "error: \"1 x\" cannot be the name of a clip [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"ACueCalledOtherwise",
     [](MachineDef& d) {
       d.cues.push_back({"1 x", "", {}, {}});
     },
     "error: \"1 x\" cannot be the name of a cue [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"AnInputCalledOtherwise",
     [](MachineDef& d) {
       d.inputs.push_back({"1 x", BoolInput{}, {}});
     },
     "error: \"1 x\" cannot be the name of an input [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"AFieldCalledOtherwise",
     [](MachineDef& d) {
       d.cues[0].fields.push_back({"1 x", true});
     },
     "error: \"1 x\" cannot be the name of a field [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"AFieldTwice",
     [](MachineDef& d) {
       d.cues[0].fields.push_back({"gain", true});
     },
     "error: there is a field \"gain\" already [duplicate-name]\n    Give it another name.\n"},
    {"AChoiceCalledOtherwise",
     [](MachineDef& d) {
       d.inputs[3].kind = ChoiceInput{{"1 x", "b"}, {}};
     },
     "error: \"1 x\" cannot be the name of a choice [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"AWindowCalledOtherwise",
     [](MachineDef& d) {
       d.marks[0].windows.push_back({"1 x", {{false, 1, 1, {}, {}}}});
     },
     "error: \"1 x\" cannot be the name of a window [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"ATraitCalledOtherwise", [](MachineDef& d) { fly(d).traits.emplace_back("1 x"); },
     "error: \"1 x\" cannot be the name of a trait [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"AReachCalledOtherwise",
     [](MachineDef& d) {
       d.reaches.push_back({"1 x", CircleShape{0, 0, 5}, {}, {}, {}});
     },
     "error: \"1 x\" cannot be the name of a reach [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"AZoneCalledOtherwise",
     [](MachineDef& d) {
       d.zones.push_back({"1 x", CircleShape{0, 0, 5}, {}, "veiled", {}, {}});
     },
     "error: \"1 x\" cannot be the name of a zone [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"ALookCalledOtherwise",
     [](MachineDef& d) {
       d.looks.push_back({"1 x", "veiled", {{"a.png", "b.png"}}});
     },
     "error: \"1 x\" cannot be the name of a look [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"AStateCalledOtherwise", [](MachineDef& d) { d.root.states.emplace_back().name = "a/b"; },
     "error: \"a/b\" cannot be the name of a state [bad-name]\n    Write `a_b`: a name is a letter, then letters, "
     "digits or underscores (at most 64), and no word of the expression language.\n"},
    {"AStateWithoutAName", [](MachineDef& d) { d.root.states.emplace_back(); },
     "error: \"\" cannot be the name of a state [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"ARegionCalledOtherwise",
     [](MachineDef& d) {
       auto& r = d.root.states.emplace_back();
       r.name = "r";
       r.regions.push_back({"1 x", {}, {fly(d)}});
     },
     "error: \"1 x\" cannot be the name of a region [bad-name]\n    A name is a letter, then letters, digits or "
     "underscores (at most 64), and no word of the expression language.\n"},
    {"ARegionWithoutStates",
     [](MachineDef& d) {
       auto& r = d.root.states.emplace_back();
       r.name = "r";
       r.regions.push_back({"l", {}, {}});
     },
     "error: the region \"l\" has no states [missing-key]\n    List them under `states:`.\n"},
    {"StatesAndRegions",
     [](MachineDef& d) {
       d.root.regions.push_back({"l", {}, {d.root.states[0]}});
     },
     "error: the machine has both `states:` and `regions:` [conflicting-keys]\n    Put the states into a region.\n"},
    {"ARootThatPlays", [](MachineDef& d) { d.root.clip = "fly"; },
     "error: the root, which is around all states, plays something [conflicting-keys]\n    It has `vars`, `enter`, "
     "`exit`, `go`, and states or regions; the rest is a state's.\n"},
    {"ARootThatIsFinal", [](MachineDef& d) { d.root.final = true; },
     "error: the root, which is around all states, is final [conflicting-keys]\n    It has `vars`, `enter`, `exit`, "
     "`go`, and states or regions; the rest is a state's.\n"},
    {"ARootWithASpeed", [](MachineDef& d) { d.root.speed = "2"; },
     "error: the root, which is around all states, plays something [conflicting-keys]\n    It has `vars`, `enter`, "
     "`exit`, `go`, and states or regions; the rest is a state's.\n"},
    {"ARootThatIsSealed", [](MachineDef& d) { d.root.sealed = true; },
     "error: the root, which is around all states, is sealed [conflicting-keys]\n    It has `vars`, `enter`, `exit`, "
     "`go`, and states or regions; the rest is a state's.\n"},
    {"ARootThatTurns", [](MachineDef& d) { d.root.each_loop.emplace_back().tell = "hum"; },
     "error: the root, which is around all states, plays something [conflicting-keys]\n    It has `vars`, `enter`, "
     "`exit`, `go`, and states or regions; the rest is a state's.\n"},
    {"AClipAndASequence",
     [](MachineDef& d) {
       fly(d).sequence = {"sting", "fly"};
     },
     "error: \"fly\" has both `clip:` and a sequence [conflicting-keys]\n    A state plays one of them.\n"},
    {"AClipAndALength", [](MachineDef& d) { fly(d).length = seconds(1); },
     "error: \"fly\" has both `clip:` and `length:` [conflicting-keys]\n    A clip brings its own length.\n"},
    {"AClipAndABlend", [](MachineDef& d) { blend(d), fly(d).clip = "fly"; },
     "error: \"fly\" has both `clip:` and `blend:` [conflicting-keys]\n    A state plays one of them.\n"},
    {"AClipAndAChoice",
     [](MachineDef& d) {
       fly(d).clip_by = ClipByDef{"tool", {{"none", "fly"}, {"net", "fly"}}};
     },
     "error: \"fly\" has both `clip:` and clips by an input [conflicting-keys]\n    A state plays one of them.\n"},
    {"ABlendOfOne", [](MachineDef& d) { blend(d).points.pop_back(); },
     "error: the blend of \"fly\" has 1 point [bad-value]\n    Give it 2 to 32.\n"},
    {"ABlendNowhere", [](MachineDef& d) { blend(d).points[1].x = std::nan(""); },
     "error: the blend of \"fly\" has a point out of range [bad-value]\n    Points lie within 1000000.\n"},
    {"ABlendWithAFloorOfNoNumber", [](MachineDef& d) { blend(d).floor = std::nan(""); },
     "error: the blend of \"fly\" has an impossible floor [bad-value]\n    It is at least 0; times the points it is "
     "less than 1.\n"},
    {"ABlendWithCuesAboveNoNumber", [](MachineDef& d) { blend(d).cues_above = std::nan(""); },
     "error: the blend of \"fly\" has an impossible weight for cues [bad-value]\n    `cues_above:` lies above 0 and at "
     "most at 1.\n"},
    {"APoseOfNothing", [](MachineDef& d) { fly(d).clip = "", fly(d).pose = 1; },
     "error: \"fly\" is a pose of no clip [missing-key]\n    Name the clip it is a frame of.\n"},
    {"TwoClipsForAChoice",
     [](MachineDef& d) {
       fly(d).clip = "", fly(d).clip_by = ClipByDef{"tool", {{"none", "fly"}, {"net", "fly"}, {"none", "fly"}}};
     },
     "error: \"fly\" has two clips for the choice \"none\" [duplicate-name]\n    Give each choice one clip.\n"},
    {"ABlendWithoutAnAxis", [](MachineDef& d) { blend(d).x = ""; },
     "error: \"fly\" has a blend without an axis [missing-key]\n    Give `x` an expression.\n"},
    {"APoseOfALength", [](MachineDef& d) { fly(d).clip = "", fly(d).length = seconds(1), fly(d).pose = 0; },
     "error: \"fly\" is a pose of no clip [missing-key]\n    Name the clip it is a frame of.\n"},
    {"TwoEvents", [](MachineDef& d) { swing(d).at = GoAt::end; },
     "7:0: error: a transition with several events: pulse: swing, at: end, during: again [conflicting-keys]\n    A "
     "transition has one of `pulse:`, `cue:`, `at:` and `after:`; write one a transition.\n"},
    {"AWindowAndFrames",
     [](MachineDef& d) {
       swing(d).during_stretch = StretchDef{false, 0, 1, {}, {}};
     },
     "7:0: error: the rule to \"sting\" waits for a window and for frames [conflicting-keys]\n    Keep one of them.\n"},
    {"ARuleToNowhere", [](MachineDef& d) { swing(d).to = ""; },
     "7:0: error: a transition without a target [missing-key]\n    Add `to:` with the name of a state.\n"},
    {"ABoxThatHitsAgainBefore", [](MachineDef& d) { d.marks[0].boxes[0].every = Ticks(-1); },
     "error: the box \"body\" hits again after an impossible time [bad-value]\n    `every` lasts 0 to 10 hours.\n"},
    {"ABoxThatHitsATagWithoutAName", [](MachineDef& d) { d.marks[0].boxes[0].hits = {""}; },
     "error: \"body\" names a tag without a name [bad-value]\n    Take it out.\n"},
    {"ALookOfNothing",
     [](MachineDef& d) {
       d.looks.push_back({"pale", "", {{"a.png", "b.png"}}});
     },
     "error: the expression \"\" ends too early [bad-expression]\n    Expected a number, a name or `(`.\n"},
    {"AZoneThatCountsWhatCannotCount",
     [](MachineDef& d) {
       d.zones.push_back({"z", CircleShape{0, 0, 5}, {}, "near", {}, {}});
     },
     "error: `inside:` of the zone \"z\" names the input \"near\" [wrong-operand]\n    It needs a bool (anyone is "
     "inside) or an int (how many are).\n"},
    {"AClaimOfNothing",
     [](MachineDef& d) {
       d.claims.push_back({"one", ClaimKind::never, "", {}, {}});
     },
     "error: the claim \"one\" says nothing [bad-value]\n    Give it an expression.\n"},
    {"AClaimBeforeItself",
     [](MachineDef& d) {
       d.claims.push_back({"one", ClaimKind::when, "near > 1", "veiled", Ticks(-1)});
     },
     "error: the claim \"one\" has an impossible time [bad-value]\n    `within` lasts 0 to 10 hours.\n"},
    {"KeysOfNoInput",
     [](MachineDef& d) {
       d.keys.push_back({"hop", {"KeyJ"}});
     },
     "error: there is no input \"hop\" [unknown-name]\n    Inputs are declared under `inputs:`. There is near, jars, "
     "veiled, tool, swing.\n"},
    {"AnActionWithFieldsOfNothing",
     [](MachineDef& d) {
       swing(d).actions.emplace_back("tired = 1").fields.push_back({"gain", 1.0});
     },
     "7:0: error: the action `tired = 1` has fields of a cue [conflicting-keys]\n    An action assigns or tells; write "
     "two.\n"},
    // the rest
    {"NoUnit", [](MachineDef& d) { d.unit = 0; },
     "error: the unit is no size [bad-value]\n    Pixels to a world unit: above 0.\n"},
    {"AClaimOfNoKind",
     [](MachineDef& d) {
       d.claims.push_back({"one", beyond<ClaimKind>(), "near > 1", {}, {}});
     },
     "error: the kind of the claim \"one\" is none: 99 [bad-value]\n    Write one that ClaimKind has.\n"},
    {"AReachOfNoSize",
     [](MachineDef& d) {
       d.reaches.push_back({"r", ConeShape{0, 0, 5, 400}, {}, {}, {}});
     },
     "error: the reach \"r\" has no size, or is out of range [bad-value]\n    Sizes are above 0 and below 1000000 "
     "pixels, an angle at most 360 degrees.\n"},
    {"AZoneThatIsACone",
     [](MachineDef& d) {
       d.zones.push_back({"z", ConeShape{0, 0, 5, 40}, {}, {}, {}, {}});
     },
     "error: the zone \"z\" has no size, or is out of range [bad-value]\n    Sizes are above 0 and below 1000000 "
     "pixels.\n"},
    {"NoStates", [](MachineDef& d) { d.root.states.clear(); },
     "error: the machine \"bee\" has no states [missing-key]\n    List them under `states:`.\n"},
};

INSTANTIATE_TEST_SUITE_P(InCode, Definitions, testing::ValuesIn(kWrongInCode),
                         [](const auto& row) { return row.param.name; });

}  // namespace
}  // namespace mobrin::test
