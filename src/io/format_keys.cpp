// The table of keys.
#include "keys.hpp"

#include <algorithm>
#include <array>
#include <iterator>

namespace mobrin::io {
namespace {

using enum Section;

constexpr KeyRow kKeys[] = {
    {machine, "mobrin", "version", "", "Version of the format; must be 1. Required in every file."},
    {machine, "machine", "title", "",
     "Name of the machine. A file without it holds clips, marks, inputs or cues for others to use."},
    {machine, "accept", "names", "", "Codes of findings that are meant so (`mobrin check --explain CODE`)."},
    {machine, "use", "paths", "",
     "Other files to take clips, marks, inputs and cues from; paths are relative to this file."},
    {machine, "unit", "pixels", "32px", "Pixels to a world unit."},
    {machine, "inputs", "inputs", "", "What the game writes, by name."},
    {machine, "cues", "cues", "",
     "Frame-timed events, by name: a kind, and fields with their values; or just the kind."},
    {machine, "clips", "clips", "", "Clips, by name."},
    {machine, "sheets", "sheets", "", "Packed sheets with named rectangles, by name."},
    {machine, "marks", "marks_by_clip", "", "Cues, spans, windows and pivots, by clip."},
    {machine, "reaches", "reaches", "", "Shapes in which a cue finds its targets, by name."},
    {machine, "zones", "zones", "", "Sensors around it that others enter and leave, by name; they fill inputs."},
    {machine, "looks", "looks", "", "Other art for the same clips, by name; the first whose condition holds counts."},
    {machine, "claims", "claims", "", "What is true whatever the game does, by name; `mobrin prove` answers."},
    {machine, "assume", "expressions", "",
     "Expressions that the game keeps true whenever it writes; claims build on them."},
    {machine, "keys", "keys", "", "Keys that write inputs where the machine is tried out (`mobrin live`), by input."},
    {machine, "initial", "name", "", "The state to start in. Required where there is more than one."},
    {machine, "vars", "vars", "", "Variables of the whole machine, by name, with their start values."},
    {machine, "enter", "actions", "", "Actions when the machine starts."},
    {machine, "exit", "actions", "", "Actions when the machine is reset."},
    {machine, "go", "go_list", "", "Transitions that hold from anywhere, in order."},
    {machine, "states", "states", "", "The states, by name, in order."},
    {machine, "regions", "regions", "", "Instead of `states`: parts that run side by side, by name."},

    {character, "mobrin", "version", "", "Version of the format; must be 1."},
    {character, "character", "title", "", "Name of the character. Required."},
    {character, "machine", "path", "", "The machine whose logic it has, relative to this file. Required."},
    {character, "accept", "names", "", "Codes of findings that are meant so (`mobrin check --explain CODE`)."},
    {character, "use", "paths", "", "Files with its clips and marks; paths are relative to this file."},
    {character, "unit", "pixels", "the machine's", "Pixels to a world unit."},
    {character, "sheets", "sheets", "", "Packed sheets with named rectangles, by name."},
    {character, "clips", "clips", "", "Its clips, by name, in place of those of the machine's files."},
    {character, "looks", "looks", "", "Its looks, in place of the machine's."},
    {character, "marks", "marks_by_clip", "", "Its marks by clip, in place of those of the machine's files."},

    {tape, "mobrin", "version", "", "Version of the format; must be 1."},
    {tape, "tape", "title", "", "Name of the tape. Required."},
    {tape, "machine", "path", "", "The machine file it was made for, relative to this file."},
    {tape, "save", "text", "", "A state to begin with, as a save's JSON text: of a tape that begins in the middle."},
    {tape, "steps", "tape_steps", "", "What is written when, in order of time."},
    {tape, "until", "instant", "", "How long the run lasts; a last step that writes nothing says it, too."},
    {tape, "faults", "int", "0", "How many runaways `mobrin test` expects."},
    {tape, "log", "paths", "",
     "All that its run tells; `mobrin test --keep` writes it, later runs are held against it."},

    {tape_step, "at", "instant", "",
     "The instant at which it is written: a duration, or `{ticks: N}`. Required where `from` is not said."},
    {tape_step, "from", "instant", "", "Instead of `at`, of an expectation over a stretch: its begin, included"},
    {tape_step, "to", "instant", "", "... and its end, not included."},
    {tape_step, "expect", "expectation", "", "What must be so; `mobrin test` looks."},
    {tape_step, "set", "values", "", "Values of inputs, by name."},
    {tape_step, "pulse", "names", "", "A pulse, or a list of them."},
    {tape_step, "rate", "number", "", "The instance's rate from now on, 0 to 64: slow motion, a pause."},
    {tape_step, "freeze", "instant", "", "Holds plays for this long, at most 6s."},
    {tape_step, "reset", "bool", "", "`true` starts the instance anew."},
    {tape_step, "settled", "bool", "",
     "`true`: what stands above it at this instant takes effect first, as by an advance of no time."},
    {tape_step, "place", "state_path", "",
     "The path of a state that is active at once, as if it had been for a while; nothing is told."},
    {tape_step, "played", "instant", "", "Of `place`: for how long, at most 10 hours; nothing: it begins."},
    {tape_step, "force", "state_path", "",
     "The path of a state that becomes active whatever the rules say; `\"\"` is the whole machine."},

    {tape_expect, "in", "state_path", "", "This state is active, by its path."},
    {tape_expect, "shows", "text", "", "A clip is shown, in any region: `net`, or a frame of it: `net/3`."},
    {tape_expect, "is", "name", "", "An active state has this trait."},
    {tape_expect, "look", "name", "", "This look is worn; `none`: none of them."},
    {tape_expect, "holds", "expression", "", "An expression as in guards is true."},
    {tape_expect, "cue", "name", "", "A cue is told at an instant that, rounded as `at` is written, is this one."},
    {tape_expect, "never", "expression", "", "Over a stretch: at no instant of it is this true."},
    {tape_expect, "always", "expression", "", "Over a stretch: at every instant of it this is true."},
    {tape_expect, "cues", "counts", "", "Over a stretch: how often cues are told."},

    {input, "accept", "names", "", "Codes of findings that are meant so (`mobrin check --explain CODE`)."},
    {input, "bool", "bool", "", "A truth value; its start."},
    {input, "int", "int", "", "A whole number; its start."},
    {input, "float", "number", "", "A number, held in 32 bits; its start."},
    {input, "min", "number", "", "Smallest value of an int or float; what is below is raised to it."},
    {input, "max", "number", "", "Largest value of an int or float; what is above is lowered to it."},
    {input, "grain", "number", "0", "A float is rounded to its multiples, so that noise wakes nobody; 0: not rounded."},
    {input, "one_of", "names", "", "One of these named choices."},
    {input, "start", "name", "the first", "The choice to start with."},
    {input, "pulse", "duration", "0s",
     "Momentary; alive from when it is written for this long, both ends included, or until a transition takes it."},

    {state, "accept", "names", "", "Codes of findings that are meant so (`mobrin check --explain CODE`)."},
    {state, "clip", "clip_choice", "",
     "The clip it plays; or a list of clips, played in turn; or one of several by an input: "
     "`{by: heading, up: walk_up, down: walk_down}`, a clip for each choice, the relative position kept."},
    {state, "blend", "blend", "", "Several clips at once by one or two numbers, such as a walker's direction."},
    {state, "pose", "pose", "",
     "One frame of a clip, standing still: a clip's name, or `{clip: NAME, frame: N}`, of a clip without frames "
     "`{clip: "
     "NAME, time: 0.2s}`; the clip may be one of several by an input."},
    {state, "length", "duration", "", "Timing without art: it ends after this long. 1ms to 10 hours."},
    {state, "speed", "expression", "1",
     "Playback speed, -64 to 64: a number or an expression. Negative plays backwards, 0 stands."},
    {state, "traits", "names", "", "Words for the game to ask: `instance.is(trait)`."},
    {state, "vars", "vars", "", "Variables with their values on entry."},
    {state, "enter", "actions", "", "Actions on entry."},
    {state, "exit", "actions", "", "Actions on exit."},
    {state, "each_loop", "actions", "", "Actions each time the clip comes round."},
    {state, "go", "go_list", "", "Its transitions, in order: the first that holds decides."},
    {state, "final", "bool", "false", "An end: after `linger`, `done` is told once and the instance rests."},
    {state, "linger", "duration", "0s",
     "Of a final state: how long it stays, from its play's end if that ends, else from entry."},
    {state, "sealed", "bool", "false", "Only its own transitions and those of states inside it may leave it."},
    {state, "initial", "name", "", "The state inside to start in. Required where there is more than one."},
    {state, "states", "inner_states", "", "States inside it, by name, in order."},
    {state, "regions", "regions", "", "Parts inside it that run side by side, by name."},

    {region, "initial", "name", "", "The state to start in. Required where there is more than one."},
    {region, "states", "states", "", "The region's states, by name, in order. Required."},

    {go, "accept", "names", "", "Codes of findings that are meant so (`mobrin check --explain CODE`)."},
    {go, "pulse", "name", "", "Event: this pulse is alive."},
    {go, "cue", "name", "", "Event: this cue has just been told."},
    {go, "at", "at", "", "Event: `end` (the play stands at its end) or `loop` (it just came round)."},
    {go, "after", "duration", "", "Event: this long in the state, or longer."},
    {go, "when", "expression", "", "Guard: an expression that is true."},
    {go, "during", "during", "",
     "Window: its name in the clip's marks, frames `4-5`, both included, or times `0.1s-0.3s`."},
    {go, "to", "path", "",
     "The state to go to: a name, a path such as `faint/lie`, `back` (to what went on before) or `air/last` (the state "
     "of `air` that was active last). Required."},
    {go, "restart", "bool", "false", "Also when that state is active already: it begins anew."},
    {go, "start", "start", "begin",
     "Where the play begins: `begin`, `same` (the same relative position), `clock` (in step with all others), a "
     "frame's number, or a time of the clip `0.2s`."},
    {go, "fade", "duration", "0s", "What is left fades out under what is entered, for this long."},
    {go, "cues", "fade_cues", "entered",
     "Of a fade: `both` lets the clip that fades out go on telling its cues; `entered` keeps it silent."},
    {go, "do", "actions", "", "Actions between leaving and entering."},

    {action, "tell", "tell", "", "A cue to tell, or `{cue: {field: value}}`."},

    {clip, "sheet", "path", "",
     "The image all frames are on, the name of an entry of `sheets`, or a file that describes a packed sheet."},
    {clip, "tile", "size", "",
     "Width and height in pixels of a cell of the sheet's grid; frames are cell numbers, row by row from 0."},
    {clip, "margin", "int", "0", "Pixels around all cells of the sheet's grid."},
    {clip, "spacing", "int", "0", "Pixels between two cells of the sheet's grid."},
    {clip, "images", "paths", "", "One image a frame. `frames` may then choose among them by number."},
    {clip, "animation", "path", "",
     "An animated image (GIF, APNG, WebP); `frames` are its frames' numbers from 0. `mobrin import` writes its "
     "delays."},
    {clip, "frames", "frames", "",
     "The frames, in order: numbers `3`, ranges `2-5`, holds `7*3`, or names of rectangles."},
    {clip, "fps", "fps", "", "Frames a second: a number or a fraction such as `30000/1001`."},
    {clip, "times", "durations", "", "Instead of `fps`: how long each frame shows."},
    {clip, "length", "duration", "", "Instead of frames: a clip known only by its length."},
    {clip, "part", "part", "", "Frames taken from another clip."},
    {clip, "accept", "names", "", "Codes of findings that are meant so (`mobrin check --explain CODE`)."},
    {clip, "prints", "prints", "",
     "Made by `mobrin import`, which knows pictures again by them: of each of `images`, or by cell of a sheet or an "
     "animation."},
    {clip, "from", "path", "", "Made by `mobrin import`: the file that a clip without frames comes from."},
    {clip, "play", "play", "once", "`once`, `loop`, `loop x3`, `back-and-forth` or `back-and-forth x3`."},

    {part, "of", "name", "", "The clip it is taken from. Required."},
    {part, "frames", "frames", "", "Which of that clip's frames, by their index; they bring their times with them."},
    {part, "from", "duration", "0s", "Of a clip without frames: where the part begins."},
    {part, "to", "duration", "its end", "Of a clip without frames: where the part ends."},

    {sheet, "image", "path", "", "The image. Required."},
    {sheet, "rects", "rects", "",
     "Rectangles by name: left, top, width, height in pixels; of a trimmed picture also columns cut off at its left, "
     "rows cut off at its top, and its whole width and height. Required."},
    {packed_sheet, "mobrin", "version", "", "The version of the format: 1. Required."},
    {packed_sheet, "image", "path", "", "The image, as seen from this file. Required."},
    {packed_sheet, "rects", "rects", "",
     "Rectangles by name: left, top, width, height in pixels; of a trimmed picture also columns cut off at its left, "
     "rows cut off at its top, and its whole width and height. Required."},

    {marks, "pivot", "pair", "", "Where the feet stand, in image pixels from the top left."},
    {marks, "offset", "pair", "", "How far the clip's art is moved against the pivot, in pixels: x forward, y up."},
    {marks, "offsets", "offsets", "", "The same for single frames, on top of `offset`: `{3: [1, 0], 5-7: [0, 2]}`."},
    {marks, "airborne", "bool", "false", "Its feet leave the ground: `check` compares no ground line."},
    {marks, "tracks", "tracks", "", "Properties that move along with the clip, such as a lid's angle, by name."},
    {marks, "boxes", "boxes", "",
     "What of the character is where: boxes by name and role. A name may stand several times, for other frames."},
    {marks, "cues", "marked_cues", "",
     "Cues by where they lie: a frame `3`, the end of a frame `5.end`, or a time `0.22s`."},
    {marks, "spans", "marked_spans", "",
     "Cues that last, by name: frames `2-4`, both included, times `0.1s-0.3s`, or a list of them."},
    {marks, "windows", "windows", "",
     "Named stretches for `during:`: frames `4-5`, times `0.1s-0.3s`, or a list of them."},

    {box, "name", "name", "", "Its name. Required."},
    {box, "role", "name", "", "What it is for: `body`, `hurt`, `hit`, `grab`, or a word of your own. Required."},
    {box, "frames", "stretches", "the whole clip",
     "While it is there: frames `3-4`, times `0.1s-0.3s`, or a list of them."},
    {box, "rect", "four_numbers", "",
     "Left, bottom, width, height in pixels from the pivot: x forward, y up. This or `circle` is required."},
    {box, "circle", "three_numbers", "", "X, y, radius in pixels from the pivot: x forward, y up."},
    {box, "hits", "names", "all", "Of what hits: only who has one of these tags."},
    {box, "spares", "names", "", "Of what hits: none who has one of these tags."},
    {box, "every", "duration", "0s", "Of what hits: one swing hits a target again after this long; 0s: never."},

    {reach, "cone", "cone", "", "A sector that opens forwards. One of the three shapes is required."},
    {reach, "circle", "three_numbers", "", "X, y, radius in pixels from the pivot: x forward, y up."},
    {reach, "rect", "four_numbers", "", "Left, bottom, width, height in pixels from the pivot."},
    {reach, "accept", "names", "", "Codes of findings that are meant so (`mobrin check --explain CODE`)."},
    {reach, "hits", "names", "all", "Only who has one of these tags."},
    {reach, "spares", "names", "", "None who has one of these tags. Whoever reaches out is always spared."},

    {cone, "length", "number", "", "How far it reaches, in pixels. Required."},
    {cone, "angle", "number", "", "Between its edges, in degrees, at most 360. Required."},
    {cone, "tip", "pair", "[0, 0]", "Where it begins, in pixels from the pivot: x forward, y up."},

    {zone, "circle", "three_numbers", "", "X, y, radius in pixels from the pivot. This or `rect` is required."},
    {zone, "rect", "four_numbers", "", "Left, bottom, width, height in pixels from the pivot."},
    {zone, "tags", "names", "all", "Who counts: has one of these tags."},
    {zone, "inside", "name", "", "The input that says whether anyone is inside (a bool) or how many are (an int)."},
    {zone, "enter", "name", "", "The pulse that comes when somebody enters."},
    {zone, "leave", "name", "", "The pulse that comes when somebody leaves."},

    {look, "when", "expression", "", "The condition, over inputs and the machine's variables. Required."},
    {look, "art", "art", "", "Images and those shown instead; they have the same frames at the same places. Required."},

    {blend, "x", "expression", "", "The first axis. Required."},
    {blend, "y", "expression", "", "The second axis; without it there is one."},
    {blend, "points", "blend_points", "", "Clips and where each counts alone. Required."},
    {blend, "floor", "number", "0", "No clip's weight is below this."},
    {blend, "cues_above", "number", "",
     "Clips of at least this weight tell their cues beside the heaviest; without it only that one does."},

    {blend_point, "at", "blend_place", "", "`[x, y]`, or a number with one axis. Required."},
    {blend_point, "clip", "name", "", "Its clip, which loops. Required."},
    {blend_point, "mirror", "bool", "false", "The clip is shown mirrored."},
    {blend_point, "backward", "bool", "false", "The clip plays backwards."},

    {track, "curve", "curve", "linear", "`step`, `linear` or `cubic` between keys."},
    {track, "keys", "track_keys", "",
     "Values by frame `3`, end of a frame `5.end` or time `0.22s`; of `cubic` also `[slope before, value, slope "
     "after]`, "
     "per second. Required."},

    {scene, "mobrin", "version", "", "Version of the format; must be 1."},
    {scene, "scene", "title", "", "Name of the scene. Required."},
    {scene, "actors", "actors", "", "Who is on the stage, by name, in order. Required."},
    {scene, "until", "instant", "", "How long it lasts. Required."},
    {scene, "spawns", "scene_spawns", "", "What spawn cues make, by their field `what` or by the cue's name."},
    {scene, "gravity", "number", "20", "World units a second, each second, for whoever flies after an impulse."},
    {scene, "ground", "number", "0", "The height to which they come down, in world units."},

    {actor, "machine", "path", "", "Its machine or character, relative to this file. Required."},
    {actor, "at", "pair", "[0, 0]", "Where its pivot stands at the beginning, in world units."},
    {actor, "face", "face", "right", "`right` or `left`."},
    {actor, "scale", "number", "1",
     "Its size, above 0: of pictures, boxes, reaches and zones, and of how far off cues spawn; what they spawn has its "
     "own."},
    {actor, "tags", "names", "", "Words by which boxes, reaches and zones pick whom they mean."},
    {actor, "tape", "path", "", "What is written to it, relative to this file; or"},
    {actor, "steps", "tape_steps", "", "the steps themselves, in order of time."},
    {actor, "moves", "scene_moves", "", "Straight moves and turns, one after the other."},
    {actor, "when_hit", "hit_rules", "", "What a hit does to it."},
    {actor, "grounded", "name", "", "A bool input that is false from an impulse upwards until it comes down."},

    {scene_move, "at", "instant", "", "When it begins. Required."},
    {scene_move, "for", "instant", "0s", "How long it lasts; 0s: it jumps."},
    {scene_move, "by", "pair", "[0, 0]", "How far, in world units."},
    {scene_move, "face", "face", "", "It turns."},
    {scene_move, "follows", "name", "", "While the move lasts it goes to this actor."},
    {scene_move, "keeps", "number", "0", "How far from it it stays, in world units."},
    {scene_move, "speed", "number", "2", "How fast it follows, in world units a second."},
    {scene_move, "faces", "it", "", "`it`: it faces whom it follows."},

    {scene_spawn, "machine", "path", "", "Its machine or character, relative to this file. Required."},
    {scene_spawn, "velocity", "pair", "[0, 0]",
     "Forward and up, in world units a second; mirrored with who spawned it."},
    {scene_spawn, "falls", "bool", "false", "Gravity is for it too."},
    {scene_spawn, "lasts", "duration", "", "After this long it is gone; without it when it is done."},
    {scene_spawn, "tags", "names", "", "As of an actor."},
    {scene_spawn, "when_hit", "hit_rules", "", "As of an actor."},

    {claim, "never", "expression", "", "At no instant is this true."},
    {claim, "always", "expression", "", "At every instant this is true."},
    {claim, "once", "expression", "", "From the instant at which this is true ..."},
    {claim, "then", "expression", "", "... this is true for ever."},
    {claim, "when", "expression", "", "Read when the game has written and before the machine settles."},
    {claim, "from", "expression", "", "Read when the machine has settled, as all but `when`."},
    {claim, "within", "duration", "", "No later than this after it, at rate 1 without freezes, ..."},
    {claim, "reaches", "expression", "", "... this is true."},
    {claim, "next", "expression", "", "At the instant after each `from`, it or this is true."},
    {claim, "can", "expression", "", "From wherever `from` is true some run leads to this."},

    {hit_rule, "by", "name", "any", "What hits: a box, a damage cue, or its reach."},
    {hit_rule, "pulse", "names", "", "Inputs to pulse."},
    {hit_rule, "add", "values", "", "What is added to number inputs."},
};

constexpr std::array<std::string_view, static_cast<std::size_t>(count)> kSectionNames = {
    "machine", "tape",  "input",        "state",       "region",      "transition", "action", "clip",
    "part",    "sheet", "packed sheet", "marks",       "tape step",   "character",  "box",    "reach",
    "cone",    "zone",  "look",         "blend",       "blend point", "track",      "scene",  "actor",
    "move",    "spawn", "hit rule",     "expectation", "claim"};

// What people call keys whose names they do not know yet, so that an unknown one is answered with the one meant.
struct Meant {
  Section section;
  std::string_view key;
  std::string_view words;  // each between two spaces
};

constexpr Meant kMeant[] = {
    {machine, "go", " transitions rules "},
    {machine, "initial", " start start_state initial_state begin default "},
    {machine, "inputs", " parameters params triggers "},
    {machine, "cues", " events sounds "},
    {machine, "clips", " animations anims "},
    {machine, "use", " include includes import imports files "},
    {machine, "vars", " variables "},
    {machine, "machine", " name "},
    {machine, "keys", " bindings controls "},

    {input, "one_of", " enum choice choices options values of "},
    {input, "int", " integer whole "},
    {input, "float", " number real double "},
    {input, "bool", " boolean flag "},
    {input, "pulse", " trigger event press button buffer "},
    {input, "start", " default initial value "},
    {input, "min", " from least lowest "},
    {input, "max", " to most highest "},
    {input, "grain", " step "},

    {state, "go", " transitions rules "},
    {state, "clip", " animation anim plays "},
    {state, "states", " children substates "},
    {state, "enter", " on_enter entry entered "},
    {state, "exit", " on_exit leave left "},
    {state, "traits", " tag tags is flag flags "},
    {state, "vars", " variables "},
    {state, "speed", " rate pace "},
    {state, "length", " duration time "},
    {state, "final", " end terminal "},
    {state, "initial", " start default "},

    {go, "when", " if condition conditions guard while "},
    {go, "pulse", " on press trigger button input "},
    {go, "cue", " event "},
    {go, "to", " target goto next state then "},
    {go, "after", " delay timer time wait "},
    {go, "fade", " crossfade mix blend duration transition "},
    {go, "do", " actions action "},
    {go, "during", " window frame frames "},

    {action, "tell", " cue event emit send fire "},

    {clip, "fps", " rate framerate frame_rate "},
    {clip, "play", " loop mode repeat "},
    {clip, "sheet", " sprite spritesheet atlas file path source src texture "},
    {clip, "tile", " cell grid size "},
    {clip, "times", " durations "},

    {marks, "cues", " event events cue "},
    {marks, "boxes", " hitbox hitboxes hurtbox hurtboxes shapes "},
    {marks, "tracks", " curve curves points properties sockets "},
    {marks, "pivot", " origin anchor "},
    {box, "frames", " frame "},
    {box, "role", " type kind "},

    {tape_step, "pulse", " press trigger button "},
    {tape_step, "at", " time t after "},
    {tape_step, "expect", " assert check "},
    {tape_step, "set", " inputs input write values "},
    {tape_step, "freeze", " pause "},
    {actor, "at", " pos position "},
    {actor, "machine", " character file "},
    {actor, "face", " facing direction "},
    {actor, "moves", " move path "},
    {actor, "when_hit", " on_hit hit hits "},
    {actor, "steps", " writes "},
    {scene_move, "at", " time from "},
    {scene_move, "for", " duration lasts length "},
    {scene_move, "by", " delta offset "},
    {scene_move, "follows", " target chase "},
    {scene_spawn, "machine", " character file "},
    {scene_spawn, "velocity", " speed impulse "},
    {scene_spawn, "lasts", " lifetime life duration "},
    {scene_spawn, "falls", " gravity "},
    {scene_spawn, "when_hit", " on_hit hit hits "},
    {hit_rule, "by", " hit from box reach "},
    {blend, "x", " by input axis parameter param "},
    {cone, "length", " range radius reach distance "},
    {cone, "angle", " width spread arc degrees "},
    {cone, "tip", " at from origin "},
    {reach, "spares", " ignores ignore excludes exclude except "},
    {reach, "hits", " targets only tags "},
    {box, "spares", " ignores ignore excludes exclude except "},
    {zone, "inside", " fills input sets "},
    {zone, "enter", " on_enter entered pulse "},
    {zone, "leave", " on_exit exit left "},
    {blend, "points", " clips children "},
    {blend_point, "at", " x y position pos threshold value "},
    {blend_point, "mirror", " flip flipped mirrored "},
    {claim, "from", " while "},
    {look, "when", " if condition "},
    {look, "art", " image images sheet replaces swaps "},
    {hit_rule, "pulse", " press trigger "},

    {scene, "until", " duration length lasts end for "},
    {tape, "until", " duration length lasts end for "},
    {tape, "steps", " events inputs presses records entries keys "},
    {scene, "actors", " characters cast entities objects members "},
    {tape_expect, "in", " state "},
    {tape_expect, "shows", " clip "},
    {tape_expect, "is", " trait traits "},
    {tape_expect, "look", " looks skin "},
    {tape_expect, "cue", " event "},
    {tape_expect, "holds", " when value values "},
};
static_assert(std::all_of(std::begin(kMeant), std::end(kMeant), [](const Meant& each) {
  return std::any_of(std::begin(kKeys), std::end(kKeys),
                     [&](const KeyRow& row) { return row.section == each.section && row.key == each.key; });
}));

}  // namespace

std::span<const KeyRow> all_keys() { return kKeys; }
const std::vector<std::string>& keys_of(Section section) {
  static const auto keys = [] {
    std::array<std::vector<std::string>, static_cast<std::size_t>(count)> out;
    for (const KeyRow& row : kKeys) out[static_cast<std::size_t>(row.section)].emplace_back(row.key);
    return out;
  }();
  return keys[static_cast<std::size_t>(section)];
}
std::string_view name_of(Section section) { return kSectionNames[static_cast<std::size_t>(section)]; }

bool is_among(std::string_view words, std::string_view word) {
  return word.find(' ') == std::string_view::npos &&
         words.find(" " + std::string(word) + " ") != std::string_view::npos;
}

std::string_view meant_key(Section section, std::string_view word) {
  const auto* const found = std::find_if(std::begin(kMeant), std::end(kMeant), [&](const Meant& each) {
    return each.section == section && is_among(each.words, word);
  });
  return found == std::end(kMeant) ? std::string_view() : found->key;
}

}  // namespace mobrin::io
