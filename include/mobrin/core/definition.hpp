// Definitions: a machine as its author writes it, before it is compiled. The loader fills these from files, games and
// tests fill them in code (see builder.hpp). Plain values without invariants; compile() checks them.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <utility>
#include <variant>
#include <vector>

#include "mobrin/core/field_value.hpp"
#include "mobrin/core/finding.hpp"
#include "mobrin/core/picture.hpp"
#include "mobrin/core/time.hpp"

namespace mobrin {

/// Words with the place they stand at.
struct Text {
  std::string text{};  ///< as it is written
  Place place{};       ///< where; line 0 for what was made in code

  Text() = default;
  /// Words from code, without a place.
  Text(const char* words);  // NOLINT: so that code reads well
  /// Words with the place in a file where they stand.
  Text(std::string words, Place where = {});  // NOLINT
  /// Whether there are no words.
  [[nodiscard]] bool empty() const { return text.empty(); }
};

/// One field of a cue, a mark or a clip: a name and a value.
struct FieldDef {
  Text name{};       ///< letters, digits, underscores; its place is for findings
  FieldValue value;  ///< true or false, a whole number, a number or words
};

// --- inputs ---------------------------------------------------------------------------------------------------------

/// An input that is true or false, at first `start`.
struct BoolInput {
  bool start = false;  ///< held until the game writes
};
/// Values outside [min, max], both included, are clamped.
struct IntInput {
  std::int32_t start = 0;        ///< held until the game writes; clamped to [min, max]
  std::int32_t min = INT32_MIN;  ///< writes below it are clamped
  std::int32_t max = INT32_MAX;  ///< writes above it are clamped; at least `min`
};
/// Values outside [min, max], both included, are clamped; a grain above 0 rounds to its multiples. Stored in 32 bits.
struct FloatInput {
  double start = 0;                     ///< as IntInput; rounded to 32 bits
  double min = -3.4028234663852886e38;  ///< finite; rounded to 32 bits
  double max = 3.4028234663852886e38;   ///< finite, at least `min`; rounded to 32 bits
  double grain = 0;                     ///< writes are rounded to multiples of it, then clamped; 0: none
};
/// One of named choices; the first is the start unless `start` names another.
struct ChoiceInput {
  std::vector<Text> choices{};  ///< 1 to 255, each name once
  Text start{};                 ///< one of them; empty: the first
};
/// Momentary: alive from the instant it is written for `buffer`, both ends included, or until a transition takes it.
struct PulseInput {
  Ticks buffer{};  ///< how long an early press waits; 0: for its own instant only; at most 10 hours
};

/// An input: its name and what it holds.
struct InputDef {
  Text name{};  ///< once a machine
  /// which kind it is, with its range and start
  std::variant<BoolInput, IntInput, FloatInput, ChoiceInput, PulseInput> kind;
  std::vector<Text> accept{};  ///< codes of findings that are meant so
};

// --- cues -----------------------------------------------------------------------------------------------------------

/// A cue: what marks and states tell the game.
struct CueDef {
  Text name{};                     ///< once a machine
  std::string kind{};              ///< damage, sound, impulse, spawn, ... the game's own word; empty for none
  std::vector<FieldDef> fields{};  ///< what it carries; each name once
  std::vector<Text> accept{};      ///< codes of findings that are meant so
};

// --- clips and marks ------------------------------------------------------------------------------------------------

/// A fraction; `den` > 0.
struct Fraction {
  std::int64_t num = 0;  ///< above; 0 for none
  std::int64_t den = 1;  ///< below; at least 1
};

enum class PlayKind : std::uint8_t { once, loop, back_and_forth };

/// How a clip plays. `passes` 0 is endless and only for loop and back_and_forth; `loop` with 3 passes ends at the
/// third.
struct PlayMode {
  PlayKind kind = PlayKind::once;  ///< how it goes on at its end
  std::int32_t passes = 1;         ///< rounds, at most 10,000; 0: for ever

  /// Plays through and stands.
  [[nodiscard]] static PlayMode once() { return {PlayKind::once, 1}; }
  /// Comes round; so many `passes`, 0 for ever.
  [[nodiscard]] static PlayMode loop(std::int32_t passes = 0) { return {PlayKind::loop, passes}; }
  /// Goes there and back; a pass is both.
  [[nodiscard]] static PlayMode back_and_forth(std::int32_t passes = 0) { return {PlayKind::back_and_forth, passes}; }
  /// Whether it never ends by itself.
  [[nodiscard]] bool endless() const { return passes == 0; }
  /// As a file writes it: `once`, `loop`, `loop x3`, `back-and-forth`.
  [[nodiscard]] std::string text() const;
};

/// Where a frame's picture is found. Mobrin's core only carries it.
struct FrameArt {
  std::string source{};      ///< the image, as the file names it; empty without art
  std::string tile{};        ///< number in the grid or in the animation, or name of the rectangle; empty: a whole image
  PixelRect rect{};          ///< width 0: the whole image; x -1: the cell `tile` of a grid of cells of this size
  std::int32_t margin = 0;   ///< of a grid: pixels around all cells
  std::int32_t spacing = 0;  ///< of a grid: pixels between two cells
  /// Of a trimmed picture: what it was before. x and y: columns and rows cut off at its left and top; its whole width
  /// and height. Width 0: it is whole. Pivots and offsets are of the whole picture.
  PixelRect whole{};
};

/// One frame: `hold` frame times of the clip's rate, or its own `time` where the clip has no rate.
struct FrameDef {
  std::int32_t hold = 1;  ///< frame times it shows, 1 to 10000; 1 where it has a `time`
  Ticks time{};           ///< how long it shows; 0 where the clip has a rate; else at least 1 ms
  FrameArt art{};         ///< empty: it runs without a picture
};

/// A clip: frames with a rate or with times of their own, or a bare length (a 3D clip known by name and length).
struct ClipDef {
  Text name{};                     ///< once a machine
  std::vector<FrameDef> frames{};  ///< at most 10,000; none for a clip with a `length`
  Fraction fps{};                  ///< num 0: the frames have times of their own
  Ticks length{};                  ///< without frames only
  PlayMode play{};                 ///< once, unless a file says otherwise
  Text part_of{};                  ///< the clip its frames were taken from, or its time; empty: none
  std::vector<Text> accept{};      ///< codes of findings that are meant so
};

/// `count` frames of one frame time each and no art: enough to run.
[[nodiscard]] std::vector<FrameDef> plain_frames(std::int32_t count);

enum class MarkAt : std::uint8_t { frame_begin, frame_end, time, frames, times };
/// Whether a mark of that kind is a span: it begins and ends.
[[nodiscard]] constexpr bool is_span(MarkAt at) { return at == MarkAt::frames || at == MarkAt::times; }
enum class MarkWay : std::uint8_t { both, forward, backward };

/// A cue on a clip: at a frame's begin or end, at a time, or (a span) over the frames [frame, last_frame] or the times
/// [time, until).
struct MarkDef {
  Text cue{};                       ///< one of the machine's cues
  MarkAt at = MarkAt::frame_begin;  ///< at what of the clip it stands
  std::int32_t frame = 0;           ///< index in the clip's own list; of `frames` the first
  std::int32_t last_frame = 0;      ///< of `frames` the last; else as `frame`
  Ticks time{};                     ///< of `time`, and of `times` the begin: in the clip's own time
  Ticks until{};                    ///< of `times` the end: does not belong to it, but where the clip ends on it
  MarkWay way = MarkWay::both;      ///< in which direction of play it is told
  std::vector<FieldDef> fields{};   ///< override the cue's own
  Place place{};                    ///< for findings
};

/// Frames [first, last], both included, or the clip's times [begin, end).
struct StretchDef {
  bool timed = false;      ///< between two times; else over frames
  std::int32_t first = 0;  ///< of frames: index in the clip's own list
  std::int32_t last = 0;   ///< of frames: the last that belongs to it
  Ticks begin{};           ///< of times: belongs to it
  Ticks end{};             ///< of times: does not, but where the clip ends on it
};

/// A window: a named span of a clip's frames or time.
struct WindowDef {
  Text name{};                          ///< once a clip
  std::vector<StretchDef> stretches{};  ///< at least one
};

/// Shapes relative to the pivot, in pixels: x forward (the way the character faces), y up.
struct RectShape {
  double left = 0;    ///< pixels of the art forward from the pivot
  double bottom = 0;  ///< pixels up from it
  double width = 0;   ///< pixels, above 0
  double height = 0;  ///< pixels, above 0
};
/// A circle around a point.
struct CircleShape {
  double x = 0;       ///< pixels forward from the pivot
  double y = 0;       ///< pixels up from it
  double radius = 0;  ///< pixels, above 0
};
/// A sector of a circle that opens forwards.
struct ConeShape {
  double x = 0;       ///< its tip, pixels forward from the pivot
  double y = 0;       ///< its tip, pixels up from the pivot
  double length = 0;  ///< pixels; above 0
  double angle = 0;   ///< between its two edges, in degrees; above 0, at most 360
};
using Shape = std::variant<RectShape, CircleShape, ConeShape>;

/// A box of a clip: what of the character is where while some frames are shown. A name may stand several times, each
/// with frames and a shape of its own.
struct BoxDef {
  Text name{};                          ///< once a clip
  Text role{};                          ///< body, hurt, hit, grab, or the game's own word
  std::vector<StretchDef> stretches{};  ///< while it is there; empty: the whole clip
  Shape shape{};                        ///< no cone
  Place place{};                        ///< for findings
  // Of what hits (see contact/contacts.hpp).
  std::vector<std::string> hits{};    ///< only who has one of these tags; empty: all
  std::vector<std::string> spares{};  ///< none who has one of these tags
  Ticks every{};                      ///< one swing hits a target again after this long; 0: never
};

enum class TrackCurve : std::uint8_t { step, linear, cubic };

/// A value at a time of a clip's own time.
struct TrackKey {
  Ticks time{};      ///< in the clip's own time
  double value = 0;  ///< finite
  double in = 0;     ///< of a cubic track: the slope before it, per second
  double out = 0;    ///< of a cubic track: the slope after it, per second
};

/// A property that moves along with a clip, such as a lid's angle. Before the first key it has its value, after the
/// last key that one's.
struct TrackDef {
  Text name{};                            ///< once a clip
  TrackCurve curve = TrackCurve::linear;  ///< how values go from key to key
  std::vector<TrackKey> keys{};           ///< in order of time
};

/// How far the art of the frames [first, last] is moved against the pivot, in pixels: x forward, y up.
struct OffsetDef {
  std::int32_t first = 0;  ///< index in the clip's own list
  std::int32_t last = 0;   ///< index in the clip's own list, included
  double x = 0;            ///< pixels forward
  double y = 0;            ///< pixels up
  Place place{};           ///< for findings
};

/// What people add to one clip. Cues of one place are told in the order of `marks`.
struct ClipMarksDef {
  Text clip{};                                        ///< whose marks they are
  std::optional<std::pair<double, double>> pivot{};   ///< image pixels from the top left
  std::optional<std::pair<double, double>> offset{};  ///< of the whole clip's art, as OffsetDef
  std::vector<OffsetDef> offsets{};                   ///< of single frames, on top of `offset`
  bool airborne = false;                              ///< its feet leave the ground: no ground line is compared
  std::vector<BoxDef> boxes{};                        ///< in the file's order
  std::vector<TrackDef> tracks{};                     ///< each name once
  std::vector<MarkDef> marks{};                       ///< in the file's order
  std::vector<WindowDef> windows{};                   ///< each name once
  /// Of a character's: cues, and roles of boxes, that the machine's own marks of the clip have, in whose place they
  /// stand.
  std::vector<std::string> replaced_cues{}, replaced_roles{};
};

// --- states ---------------------------------------------------------------------------------------------------------

/// An assignment (`pace = pace - 0.25`) or, where `tell` is set, a cue to tell.
struct ActionDef {
  Text assign{};                   ///< `name = expression`; empty where a cue is told
  Text tell{};                     ///< a cue; empty where something is assigned
  std::vector<FieldDef> fields{};  ///< override the cue's own; of a cue that is told

  ActionDef() = default;
  /// An assignment from code, such as `count = count + 1`.
  ActionDef(const char* assignment);  // NOLINT: so that code reads well
  /// The same with its place in a file.
  ActionDef(Text assignment);  // NOLINT
};

/// A variable: a number that the machine itself writes.
struct VarDef {
  Text name{};                                       ///< once a state
  std::variant<bool, std::int32_t, double> start{};  ///< held from the state's entry on
};

enum class StartKind : std::uint8_t { begin, same, clock, frame, time };

/// Where the play of the entered state begins.
struct StartDef {
  StartKind kind = StartKind::begin;  ///< where in the clip it begins
  std::int32_t frame = 0;             ///< of `frame`: index in the clip's own list
  Ticks time{};                       ///< of `time`: in the clip's own time
  Place place{};                      ///< for findings
};

enum class GoAt : std::uint8_t { none, end, loop };

/// Which of the clips of a fade tell their cues.
enum class FadeCues : std::uint8_t { entered, both };

/// A transition. Its event is at most one of `pulse`, `cue`, `at`, `after`; with `when` and `during` on top.
struct GoDef {
  Text pulse{};                                ///< a press that it takes; empty: none
  Text cue{};                                  ///< a cue at whose instant it is taken; empty: none
  GoAt at = GoAt::none;                        ///< `end` or `loop` of what the state plays
  std::optional<Ticks> after{};                ///< since the state was entered; at most 10 hours
  Text when{};                                 ///< an expression; empty: always
  Text during{};                               ///< a window's name ...
  std::optional<StretchDef> during_stretch{};  ///< ... or frames, or times, of what plays
  Text to{};                                   ///< a state, by name or path, or `back`
  bool restart = false;                        ///< enters anew also what is active already
  StartDef start{};                            ///< where the target's clip begins
  Ticks fade{};                                ///< how long what is left fades out under what is entered; 0: it is cut
  FadeCues fade_cues = FadeCues::entered;      ///< which of the two clips tells cues while they fade
  std::vector<ActionDef> actions{};            ///< done in order, between leaving and entering
  Place place{};                               ///< for findings
  std::vector<Text> accept{};                  ///< codes of findings that are meant so
};

struct StateDef;

/// A region: states of which one is active at a time while its owner is.
struct RegionDef {
  Text name{};                   ///< once a state
  Text initial{};                ///< the state inside that is entered first; empty: the first one
  std::vector<StateDef> states;  ///< at least one; no initializer: the type is not complete here
};

/// One of several clips by a choice input: a clip for each choice, all of one play mode.
struct ClipByDef {
  Text input{};                                ///< the input, a choice, that decides
  std::vector<std::pair<Text, Text>> clips{};  ///< choice and clip
};

/// A clip of a blend, and where it counts alone.
struct BlendPointDef {
  double x = 0;           ///< where the clip lies, in units of the first input
  double y = 0;           ///< where the clip lies, in units of the second input
  Text clip{};            ///< one of the machine's clips
  bool mirrored = false;  ///< shown mirrored
  bool backward = false;  ///< played backwards
};

/// Several clips at once by one or two expressions: their weights are continuous, sum to 1 and are exact at the points.
/// All clips run in phase.
struct BlendDef {
  Text x{};                             ///< an expression
  Text y{};                             ///< an expression; empty: one axis
  std::vector<BlendPointDef> points{};  ///< 2 or more
  double floor = 0;                     ///< no weight is below it; times the points less than 1
  /// Beside the heaviest clip, those of at least this weight tell their cues too (spans only the heaviest's); a clip at
  /// several points weighs what they weigh together. Empty: the heaviest alone.
  std::optional<double> cues_above{};
  Place place{};  ///< for findings
};

/// A state. Only a state without children plays: a clip, several clips one after the other, one of several by an input,
/// a bare length, one frame of a clip (a pose), or nothing.
struct StateDef {
  Text name{};                         ///< once among its neighbours
  Text clip{};                         ///< empty: it shows what the state around it shows, or nothing
  std::vector<Text> sequence{};        ///< instead of `clip`: these in turn, each with all its passes
  std::optional<ClipByDef> clip_by{};  ///< instead of `clip`
  std::optional<BlendDef> blend{};     ///< instead of `clip`
  std::optional<std::int32_t> pose{};  ///< with `clip` or `clip_by`: it stands still on this frame
  Ticks pose_time{};                   ///< of a pose of a clip without frames: at this time of it; `pose` is 0 then
  std::optional<Ticks> length{};       ///< timing without art
  Text speed{};                        ///< an expression; empty for 1
  std::vector<Text> traits{};          ///< words that the game asks for (`dead`, `busy`)
  std::vector<VarDef> vars{};          ///< kept while the state is active
  std::vector<ActionDef> enter{};      ///< done at each entry, in order
  std::vector<ActionDef> exit{};       ///< done at each leaving, in order
  std::vector<ActionDef> each_loop{};  ///< done where its clip comes round, in order
  bool final = false;                  ///< when it is entered the instance is done
  bool sealed = false;                 ///< rules of the states around it do not lead out of it
  Ticks linger{};                      ///< how long it waits before it is `done`; of a final state
  Text initial{};                      ///< of `states`: entered with it; empty: the first one
  std::vector<GoDef> go{};             ///< in the order in which they are tried
  std::vector<StateDef> states{};      ///< inside it: one of them is active
  std::vector<RegionDef> regions{};    ///< inside it: in each of them one is active; not beside `states`
  Place place{};                       ///< for findings
  std::vector<Text> accept{};          ///< codes of findings that are meant so
};

/// A shape in which something finds its targets, at an instant.
struct ReachDef {
  Text name{};                        ///< once a machine
  Shape shape{};                      ///< pixels from the pivot
  std::vector<std::string> hits{};    ///< only who has one of these tags; empty: all
  std::vector<std::string> spares{};  ///< none who has one of these tags; `self` is always spared
  std::vector<Text> accept{};         ///< codes of findings that are meant so
};

/// A sensor around the machine that others enter and leave. It fills inputs.
struct ZoneDef {
  Text name{};                      ///< once a machine
  Shape shape{};                    ///< pixels from the pivot; no cone
  std::vector<std::string> tags{};  ///< who counts: has one of these; empty: all
  Text inside{};                    ///< a bool (anyone is in it) or an int (how many are); may be empty
  Text enter{};                     ///< pulse sent to who comes in; may be empty
  Text leave{};                     ///< pulse sent to who goes out; may be empty
};

/// Other art for the same clips, while a condition holds.
struct LookDef {
  Text name{};                                             ///< once a machine
  Text when{};                                             ///< over inputs, the machine's variables and in()
  std::vector<std::pair<std::string, std::string>> art{};  ///< image and the one shown instead
};

/// What its author says of a machine, whatever the game does: see docs/checking.md. The engine does not read it.
enum class ClaimKind : std::uint8_t { never, always, once, when, within, next, can };
/// A claim: what is to hold of every run, which `mobrin prove` looks into.
struct ClaimDef {
  Text name{};                        ///< once a machine
  ClaimKind kind = ClaimKind::never;  ///< what is claimed
  Text first{};                       ///< of `never`, `always`, `once`, `when`, `from`: the expression after that word
  Text second{};                      ///< of `then`, `reaches`, `next`, `can`
  Ticks within{};                     ///< of `when` and `within`: no later than this
};

/// Which keys of a keyboard write an input where a machine is tried out: for one that has two ends both of them, for
/// choices one each. A tool's affair: nothing that runs knows of it.
struct KeysDef {
  Text input{};               ///< which input the keys write
  std::vector<Text> codes{};  ///< as KeyboardEvent.code names them
};

/// A whole machine. `root` is the state around all others: its `go` holds from anywhere.
struct MachineDef {
  Text name{};                        ///< empty: it has none
  std::vector<std::string> files{};   ///< what Place::file indexes
  std::vector<InputDef> inputs{};     ///< at most 1,000, each name once
  std::vector<CueDef> cues{};         ///< each name once
  std::vector<ClipDef> clips{};       ///< each name once
  std::vector<ClipMarksDef> marks{};  ///< one for a clip
  double unit = 32;                   ///< pixels to a world unit
  std::vector<ReachDef> reaches{};    ///< each name once
  std::vector<ZoneDef> zones{};       ///< each name once
  std::vector<LookDef> looks{};       ///< the first whose condition holds counts
  std::vector<Text> accept{};         ///< of all its files: codes, or a code and a name (`unused-clip wave`)
  std::vector<ClaimDef> claims{};     ///< each name once
  std::vector<Text> assumed{};        ///< expressions that the game keeps true whenever it writes; claims build on them
  std::vector<KeysDef> keys{};        ///< one for an input
  StateDef root;                      ///< what is around all states; its name is empty
};

}  // namespace mobrin
