// Keys that stand in a section to which they do not belong.
#include <algorithm>

#include "reader.hpp"

namespace mobrin::io {
namespace {

struct Other {
  Section here, there;
  std::string_view where;
};
constexpr std::string_view kOfClip = "a clip: put it there, under `clips:`.";
constexpr std::string_view kOfMarks = "a clip's marks: put it there, under `marks:` and the clip's name.";
constexpr std::string_view kOfPlayer = "a state: put it at the state that plays the clip.";
constexpr std::string_view kOfState = "a state: put it at one of those under `states:`.";
constexpr std::string_view kOfRule = "a rule: put it into one of the list `go:`.";
constexpr Other kOthers[] = {
    {Section::machine, Section::clip, kOfClip},
    {Section::machine, Section::marks, kOfMarks},
    {Section::machine, Section::state, kOfState},
    {Section::machine, Section::go, kOfRule},
    {Section::machine, Section::tape, "a tape: put it into a file of its own, with `tape: NAME` and `machine: FILE`."},
    {Section::machine, Section::scene, "a scene: put it into a file of its own, with `scene: NAME`."},
    {Section::region, Section::state,
     "a state: put it at the state around the region; rules of `go:` lead to `REGION/STATE`."},
    {Section::state, Section::clip, kOfClip},
    {Section::state, Section::go, kOfRule},
    {Section::state, Section::marks, kOfMarks},
    {Section::state, Section::machine, "the machine: put it at the top of the file."},
    {Section::clip, Section::marks, kOfMarks},
    {Section::clip, Section::state, kOfPlayer},
    {Section::marks, Section::clip, kOfClip},
    {Section::marks, Section::state, kOfPlayer},
    {Section::go, Section::state, "a state: put it at the state, beside `go:`."},
    {Section::blend, Section::state, "a state: put it at the state, beside `blend:`."},
    {Section::tape_step, Section::tape_expect, "an expectation: put it under `expect:`."},
    {Section::tape_step, Section::tape, "the tape: put it beside `steps:`."},
    {Section::tape, Section::tape_step, "a step: put it into one of the list `steps:`, `- {at: 0s, set: {move: 1}}`."},
    {Section::tape_step, Section::scene_move,
     "a move, which an actor of a scene has beside `steps:`: `moves: [{at: 0s, for: 1s, by: [1.2, 0]}]`."},
    {Section::scene_move, Section::tape_step,
     "a step: put it under `steps:`, beside `moves:`, `- {at: 900ms, pulse: swing}`."},
    {Section::actor, Section::tape_step, "a step: `steps: [{at: 900ms, pulse: swing}]`."},
    {Section::actor, Section::scene_move, "a move: `moves: [{at: 0s, for: 1s, by: [1.2, 0]}]`."},
    {Section::actor, Section::hit_rule, "a hit rule: `when_hit: [{by: sting, pulse: stung}]`."},
    {Section::actor, Section::scene, "the scene: put it beside `actors:`."},
    {Section::scene_spawn, Section::actor,
     "an actor; what is spawned comes where its cue says, and faces as who made it."},
    {Section::hit_rule, Section::tape_step, "a step; a hit presses, `pulse: stung`, or adds, `add: {health: -1}`."},
    {Section::scene, Section::actor, "an actor: put it at one of them, under `actors:`."},
    {Section::scene, Section::machine, "a machine: put it into the file of that."},
    {Section::tape, Section::machine, "a machine: put it into the file that `machine:` names."},
};

// What is said in another way here, whatever sections have such keys.
struct Otherwise {
  Section here;
  std::string_view words, remedy;
};
constexpr std::string_view kName = "It is called by the word in front of the colon.";
constexpr std::string_view kOrder =
    "Rules are looked at from the top, those of states around it first: their order in the file is it.";
constexpr std::string_view kCooling =
    "A region of its own counts it, with two states: `cooling` leads to `ready` `after: 2s`; rules ask "
    "`in(REGION/ready)`.";
constexpr std::string_view kBuffer =
    "How long an early press waits is said where it is declared: `inputs: {hop: {pulse: 100ms}}`.";
constexpr std::string_view kReach =
    "A cue of the kind damage names it: `cues: {sting: {kind: damage, reach: REACH}}`; on a frame it strikes.";
constexpr std::string_view kExpects =
    "What must be so is said by a step of an actor: `steps: [{at: 1s, expect: {in: air}}]`.";
constexpr std::string_view kLayers = "What goes on beside each other stands under `regions:`, each with its states.";
constexpr std::string_view kShapes = "Write `rect: [left, bottom, width, height]` or `circle: [x, y, radius]`.";
constexpr std::string_view kHits =
    "What a hit does is said by whom it hits: the game, by the box's name, or in a scene `when_hit:`.";
constexpr std::string_view kTags =
    "Whom it hits: `hits: [bees]`. Such words are given by the game, or in a scene by `tags:` of an actor.";
constexpr std::string_view kLeaves =
    "A state is left as its rules say. `sealed: true` keeps out those of states around it, `during: WINDOW` lets one "
    "through in a window only.";
constexpr std::string_view kTimes =
    "With frames it is `fps: 10`, or `times:` with one a frame; without frames `length: 1s`.";
constexpr std::string_view kGame = "The game does that before it writes the input: leave it out.";
constexpr std::string_view kPhase = "Clips of a blend run in phase: leave it out.";
constexpr std::string_view kTell =
    "The game hears cues: declare one under `cues:`, and tell it as an action, `enter: [{tell: CUE}]`, or on a frame, "
    "under `marks:`.";
constexpr Otherwise kOtherwise[] = {
    {Section::machine, " layer layers ", kLayers},
    {Section::machine, " root top fsm state_machine ",
     "The machine is its outermost state: write at the top of the file what stands in it."},
    {Section::machine, " any anywhere global ",
     "Rules that hold from anywhere stand under `go:`, at the top of the file."},
    {Section::machine, " condition conditions guard guards ",
     "A guard stands at its rule: `go: [{when: health < 3, to: hurt}]`."},
    {Section::machine, " timer timers ",
     "A timer is a rule, `go: [{after: 2s, to: rest}]`: it begins and ends with its state."},
    {Section::machine, " cooldown cooldowns ", kCooling},
    {Section::input, " range limits bounds ", "Write `min:` and `max:`."},
    {Section::input, " key keys on binding ", "What presses it stands under `keys:` of the machine."},
    {Section::input, " clamp clamped ", "What is written is clamped to `min:` and `max:`: leave it out."},
    {Section::input, " wrap smooth smoothing lerp damping deadzone dead_zone sensitivity toggle ", kGame},
    {Section::input, " lifetime window decay timeout ", "A press that waits for so long is `{pulse: 150ms}`."},
    {Section::input, " name ", kName},
    {Section::state, " layer layers ", kLayers},
    {Section::state, " sound sounds effect effects event events spawn damage particles ", kTell},
    {Section::state, " update on_update tick each_frame every_frame ",
     "Nothing is done each frame: a value is looked at by a rule, `when:`; `each_loop:` is done as its clip comes "
     "round."},
    {Section::state, " on_end onend at_end next then on_finish on_complete finished ",
     "What follows is a rule: `go: [{at: end, to: STATE}]`."},
    {Section::state, " sequence playlist queue clips ",
     "Clips one after the other are a list: `clip: [wind_up, swing]`."},
    {Section::state, " timeout lifetime ", "Write a rule: `go: [{after: 1s, to: STATE}]`."},
    {Section::state, " interruptible interrupt interrupts cancel cancelable lock locked ", kLeaves},
    {Section::state, " priority order ", kOrder},
    {Section::state, " cooldown ", kCooling},
    {Section::state, " parent ", "Put it under `states:` of that state."},
    {Section::state, " flip flipped flip_x flip_h mirror mirrored ",
     "Who draws a picture turns it over. Where the pictures differ an input picks the clip: `clip: {by: heading, left: "
     "walk_left, right: walk_right}`."},
    {Section::state, " type kind category ", "A word for the game to ask is a trait: `traits: [attack]`."},
    {Section::state, " name ", kName},
    {Section::go, " unless not ", "Write `when: not (...)`."},
    {Section::go, " buffer buffered grace leeway ", kBuffer},
    {Section::go, " reach reaches ", kReach},
    {Section::state, " buffer buffered grace leeway ", kBuffer},
    {Section::state, " reach reaches ", kReach},
    {Section::clip, " reach reaches ", kReach},
    {Section::marks, " reach reaches ", kReach},
    {Section::go, " and or also ", "Join them in one guard, `when: a and b`."},
    {Section::go, " from source ", "A rule stands at the state that it leads away from, in the `go:` of that."},
    {Section::go, " priority order ", kOrder},
    {Section::go, " chance probability random odds weight ",
     "Nothing is left to chance: the game throws the die and writes it to an input, `when: die < 3`."},
    {Section::go, " once ", "A variable keeps it: `when: not roared` and `do: [roared = true]`."},
    {Section::go, " cooldown ", kCooling},
    {Section::go, " interrupt interruptible ",
     "A rule is looked at whenever its state is active; in a window only with `during: WINDOW`."},
    {Section::go, " key keys ",
     "It is taken by a press, `pulse: INPUT`; which key that is stands under `keys:` of the "
     "machine."},
    {Section::go, " tell sound emit ", "Write `do: [{tell: CUE}]`."},
    {Section::go, " set assign add ", "Write `do: [n = n + 1]`."},
    {Section::go, " name id label ", "A rule has no name: logs and findings tell its line."},
    {Section::go, " else otherwise default ", "Write another rule below it."},
    {Section::action, " set add assign increment subtract ",
     "Write the assignment, `n = n + 1`; `vars:` declares `n`."},
    {Section::action, " sound play spawn effect log print call ",
     "The game hears cues: declare one under `cues:` and write `tell: CUE`."},
    {Section::action, " pulse press ", "Only the game presses. Rules hear a cue: `tell: CUE` here, `cue: CUE` there."},
    {Section::action, " if when unless ",
     "An action is always done. A value may depend, `n = select(n > 3, 0, n + 1)`; else two rules with guards do it."},
    {Section::action, " wait after delay ", "An action is done at once; a rule waits, `{after: 1s, to: STATE}`."},
    {Section::action, " to goto go ", "Where it goes on is said by a rule, in `go:`."},
    {Section::clip, " duration time ms delay delays frame_time ", kTimes},
    {Section::clip,
     " frame_width frame_height tile_width tile_height cell_width cell_height width height frame_size tile_size "
     "cell_size w h ",
     "The size of the sheet's cells is `tile: [32, 32]`, width and height."},
    {Section::clip, " row rows ",
     "Cells are numbered from 0, row after row: row 1 of eight columns is `frames: [8-15]`."},
    {Section::clip, " column columns cols ",
     "Leave it out: how many there are follows from the sheet's width and `tile:`."},
    {Section::clip, " first last start end from_frame to_frame start_frame end_frame count frame_count ",
     "Write the first and the last of them, from 0: `frames: [0-7]`."},
    {Section::clip, " flip flipped flip_x mirror mirrored ",
     "Who draws a picture turns it over; a point of a blend says `mirror: true`."},
    {Section::clip, " speed ",
     "How fast its frames come is `fps: 12`; the state that plays it may say `speed: 2`, twice as fast as that."},
    {Section::clip, " reverse reversed backward backwards ", "The state that plays it says `speed: -1`."},
    {Section::clip, " next then on_end ",
     "What follows is a rule of the state that plays it: `go: [{at: end, to: STATE}]`."},
    {Section::clip, " hold holds ", "A frame that shows longer is written so: `frames: [0, 1*3, 2]`."},
    {Section::clip, " interruptible interrupt cancel cancelable ",
     "A window of its marks says from when, `windows: {free: 4-7}`; a rule asks for it, `during: free`."},
    {Section::clip, " scale zoom ", "The game draws it as large as it likes: leave it out."},
    {Section::clip, " sound sounds ", "A sound is a cue on a frame, under `marks:`: `cues: {3: CUE}`."},
    {Section::clip, " marks ", "Marks stand beside `clips:`, by the clip's name: `marks: {CLIP: {cues: {2: CUE}}}`."},
    {Section::clip, " name ", kName},
    {Section::marks, " sound sounds effect effects ", "A sound is a cue on a frame: `cues: {3: CUE}`."},
    {Section::marks, " motion movement move velocity ",
     "Where it goes is the game's; what moves along with the clip may be a track, `tracks: {lift: {keys: {0: 0, 3: "
     "4}}}`."},
    {Section::box, " damage knockback power amount force ", kHits},
    {Section::box, " tag tags team layer mask group faction ", kTags},
    {Section::box, " once ", "One swing hits a target once; `every: 200ms` hits it again."},
    {Section::box, " size width height x y w h radius center offset shape ", kShapes},
    {Section::box, " at time from to begin start end active enabled ",
     "Write the frames at which it is there: `frames: 2-4`."},
    {Section::reach, " damage knockback power amount force ", kHits},
    {Section::reach, " tag tags team layer mask group faction ", kTags},
    {Section::reach, " range length angle degrees distance ", "Write `cone: {length: 30, angle: 60}`."},
    {Section::reach, " size width height x y w h radius center offset shape ", kShapes},
    {Section::reach, " frames frame at time active ",
     "A reach is always there. What comes and goes with frames is a box: under `marks:`, `boxes:`."},
    {Section::zone, " range size width height x y w h radius center offset shape ", kShapes},
    {Section::zone, " margin hysteresis ", "The game gives its arena a margin: leave it out."},
    {Section::zone, " to goto state when ",
     "A zone writes an input, `inside: near`; a rule asks for it, `when: near`."},
    {Section::look, " color colour tint shader opacity alpha ",
     "A look shows other pictures, `art: {bee.png: pale_bee.png}`; colours are the game's."},
    {Section::look, " in state states trait ",
     "A look depends on inputs and the machine's variables: `when: health < 3`."},
    {Section::look, " priority order ", "The first in the file whose `when:` is true is shown."},
    {Section::claim, " eventually until after ", "Write `{from: E, within: 2s, reaches: F}`."},
    {Section::claim, " to goal leads ", "What is come to is `reaches:`, beside `within: 2s`; or `can:`."},
    {Section::claim, " if implies ", "Write `{once: E, then: F}`, or `{when: E, within: 0s, reaches: F}`."},
    {Section::claim, " assume assuming given ", "It stands beside `claims:`, for all of them: `assume: [health > 0]`."},
    {Section::claim, " in is ", "Expressions say it: `{never: in(faint) and is(busy)}`."},
    {Section::blend, " sync synced ", kPhase},
    {Section::blend, " smooth smoothing damping ", kGame},
    {Section::blend, " at clip ", "Points stand in a list: `points: [{at: 0, clip: stroll}, {at: 1, clip: run}]`."},
    {Section::blend, " type kind mode ", "With `y:` it has two axes, without it one: leave it out."},
    {Section::blend_point, " weight ", "How much it counts follows from where it lies: `at: 0.5`."},
    {Section::blend_point, " speed fps ", kPhase},
    {Section::tape_step, " frame frames tick ticks ", "Steps count time, not frames: `at: 400ms`."},
    {Section::tape_step, " for lasts duration ", "What is set stays until it is set again: write another step."},
    {Section::tape_step, " add toggle ", "A step says what an input becomes: `set: {health: 4}`."},
    {Section::tape_step, " hold release down up ",
     "What is held is a bool: `set: {run: true}`, and in a later step `false`."},
    {Section::tape_step, " wait delay sleep ", "Steps say their instant, counted from the tape's begin: `at: 1s`."},
    {Section::tape_step, " state goto ", "A state is put there by `place: air`, and expected by `expect: {in: air}`."},
    {Section::tape, " expect expects expectations asserts checks ",
     "What must be so is said by a step: `- {at: 1s, expect: {in: air}}`."},
    {Section::tape, " fps rate hz frame_rate ", "Steps count time, not frames; leave it out."},
    {Section::tape, " loop repeat ", "A tape runs once; leave it out."},
    {Section::tape_expect, " frame frames ", "Write the clip and the number of its frame: `shows: walk/3`."},
    {Section::tape_expect, " not not_in ", "Write `holds: not in(air)`."},
    {Section::scene, " expect expects expectations asserts checks ", kExpects},
    {Section::actor, " expect expects expectations asserts checks ", kExpects},
    {Section::scene, " fps rate hz frame_rate ", "A scene counts time, not frames; leave it out."},
    {Section::scene, " camera size width height background view resolution ",
     "Pictures show what is on the stage; leave it out."},
    {Section::actor, " flip flipped mirror mirrored ", "Write `face: left`."},
    {Section::actor, " x y ", "Write `at: [x, y]`, in world units."},
    {Section::actor, " set inputs values ", "Write a step: `steps: [{at: 0s, set: {carrying: net}}]`."},
    {Section::actor, " velocity dx dy vx vy ", "Write how far it goes: `moves: [{at: 0s, for: 1s, by: [1.2, 0]}]`."},
    {Section::actor, " look looks skin ",
     "A look is shown while its condition holds: write the input that it asks for."},
    {Section::actor, " team group faction layer ",
     "Write words by which boxes and zones pick whom they mean: `tags: [bees]`."},
    {Section::actor, " count copies number ", "Each actor stands by himself, under a name of his own."},
    {Section::hit_rule, " damage set change subtract minus ", "Write what is added to an input: `add: {health: -2}`."},
    {Section::hit_rule, " to state goto ", "A hit presses, `pulse: stung`, and a rule of the machine takes that."},
    {Section::scene_move, " jump hop height ",
     "A hop is a cue of the kind impulse: press for it, `steps: [{at: 900ms, pulse: hop}]`."},
    {Section::scene_move, " until end ", "A move says for how long it goes, `for: 1s`."},
    {Section::scene_move, " to x y dx dy velocity distance ",
     "A move says how far it goes, `by: [1.2, 0]`, and for how long, `for: 1s`."},
};

constexpr std::string_view kNotes =
    " comment comments note notes description doc todo author authors title license meta version ";

}  // namespace

std::string key_elsewhere(Section section, std::string_view key) {
  for (const Otherwise& each : kOtherwise)
    if (each.here == section && is_among(each.words, key)) return std::string(each.remedy);
  for (const Other& each : kOthers) {
    if (each.here != section) continue;
    const std::vector<std::string>& known = keys_of(each.there);
    if (std::find(known.begin(), known.end(), key) != known.end()) return "It is one of " + std::string(each.where);
    if (const std::string_view meant = meant_key(each.there, key); !meant.empty())
      return "It is `" + std::string(meant) + ":` of " + std::string(each.where);
  }
  if (is_among(kNotes, key)) return "Write it as a comment, `# ...`.";
  return {};
}

namespace {

bool stands_in_scenes(Section section) {
  return section == Section::scene || section == Section::actor || section == Section::scene_move ||
         section == Section::scene_spawn || section == Section::hit_rule;
}
bool stands_in_tapes(Section section) {
  return section == Section::tape || section == Section::tape_step || section == Section::tape_expect;
}

}  // namespace

std::string key_of_others(Section section, std::string_view key) {
  std::vector<std::string> others;
  for (std::size_t i = 0; i < static_cast<std::size_t>(Section::count); ++i) {
    const auto other = static_cast<Section>(i);
    const bool alike =
        stands_in_scenes(other) == stands_in_scenes(section) && stands_in_tapes(other) == stands_in_tapes(section);
    const std::vector<std::string>& known = keys_of(other);
    if (alike && std::find(known.begin(), known.end(), key) != known.end())
      others.push_back(with_article(name_of(other)));
  }
  if (others.empty() || others.size() > 2) return {};
  return "It is a key of " + others.front() + (others.size() > 1 ? ", or of " + others.back() : "") + ". ";
}

}  // namespace mobrin::io
