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
  std::string text{};
  Place place{};

  Text() = default;
  Text(const char* words) : text(words) {}  // NOLINT: so that code reads well
  Text(std::string words, Place where = {}) : text(std::move(words)), place(where) {}  // NOLINT
  [[nodiscard]] bool empty() const { return text.empty(); }
};

struct FieldDef {
  Text name{};
  FieldValue value;
};

// --- inputs ---------------------------------------------------------------------------------------------------------

struct BoolInput {
  bool start = false;
};
/// Values outside [min, max], both included, are clamped.
struct IntInput {
  std::int32_t start = 0;
  std::int32_t min = INT32_MIN;
  std::int32_t max = INT32_MAX;
};
/// Values outside [min, max], both included, are clamped; a grain above 0 rounds to its multiples. Stored in 32 bits.
struct FloatInput {
  double start = 0;
  double min = -3.4028234663852886e38;
  double max = 3.4028234663852886e38;
  double grain = 0;
};
/// One of named choices; the first is the start unless `start` names another.
struct ChoiceInput {
  std::vector<Text> choices{};
  Text start{};
};
/// Momentary: alive from the instant it is written for `buffer`, both ends included, or until a transition takes it.
struct PulseInput {
  Ticks buffer{};
};

struct InputDef {
  Text name{};
  std::variant<BoolInput, IntInput, FloatInput, ChoiceInput, PulseInput> kind;
  std::vector<Text> accept{};  ///< codes of findings that are meant so
};

// --- cues -----------------------------------------------------------------------------------------------------------

struct CueDef {
  Text name{};
  std::string kind{};  ///< damage, sound, impulse, spawn, ... the game's own word; empty for none
  std::vector<FieldDef> fields{};
  std::vector<Text> accept{};  ///< codes of findings that are meant so
};

// --- clips and marks ------------------------------------------------------------------------------------------------

/// A fraction; `den` > 0.
struct Fraction {
  std::int64_t num = 0;
  std::int64_t den = 1;
};

enum class PlayKind : std::uint8_t { once, loop, back_and_forth };

/// How a clip plays. `passes` 0 is endless and only for loop and back_and_forth; `loop` with 3 passes ends at the
/// third.
struct PlayMode {
  PlayKind kind = PlayKind::once;
  std::int32_t passes = 1;

  [[nodiscard]] static PlayMode once() { return {PlayKind::once, 1}; }
  [[nodiscard]] static PlayMode loop(std::int32_t passes = 0) { return {PlayKind::loop, passes}; }
  [[nodiscard]] static PlayMode back_and_forth(std::int32_t passes = 0) { return {PlayKind::back_and_forth, passes}; }
  [[nodiscard]] bool endless() const { return passes == 0; }
  /// As a file writes it: `once`, `loop`, `loop x3`, `back-and-forth`.
  [[nodiscard]] std::string text() const;
};

/// Where a frame's picture is found. Mobrin's core only carries it.
struct FrameArt {
  std::string source{};  ///< the image, as the file names it; empty without art
  std::string tile{};    ///< number in the grid or in the animation, or name of the rectangle; empty: a whole image
  PixelRect rect{};      ///< width 0: the whole image; x -1: the cell `tile` of a grid of cells of this size
  std::int32_t margin = 0, spacing = 0;  ///< of a grid: pixels around all cells, and between two
  /// Of a trimmed picture: what it was before. x and y: columns and rows cut off at its left and top; its whole width
  /// and height. Width 0: it is whole. Pivots and offsets are of the whole picture.
  PixelRect whole{};
};

/// One frame: `hold` frame times of the clip's rate, or its own `time` where the clip has no rate.
struct FrameDef {
  std::int32_t hold = 1;
  Ticks time{};
  FrameArt art{};
};

/// A clip: frames with a rate or with times of their own, or a bare length (a 3D clip known by name and length).
struct ClipDef {
  Text name{};
  std::vector<FrameDef> frames{};
  Fraction fps{};  ///< num 0: the frames have times of their own
  Ticks length{};  ///< without frames only
  PlayMode play{};
  std::vector<Text> accept{};  ///< codes of findings that are meant so
};

/// `count` frames of one frame time each and no art: enough to run.
[[nodiscard]] std::vector<FrameDef> plain_frames(std::int32_t count);

enum class MarkAt : std::uint8_t { frame_begin, frame_end, time, frames };
enum class MarkWay : std::uint8_t { both, forward, backward };

/// A cue on a clip: at a frame's begin or end, at a time, or (a span) over the frames [frame, last_frame].
struct MarkDef {
  Text cue{};
  MarkAt at = MarkAt::frame_begin;
  std::int32_t frame = 0;
  std::int32_t last_frame = 0;
  Ticks time{};
  MarkWay way = MarkWay::both;
  std::vector<FieldDef> fields{};  ///< override the cue's own
  Place place{};
};

/// Frames [first, last], both included, or the clip's times [begin, end).
struct StretchDef {
  bool timed = false;
  std::int32_t first = 0;
  std::int32_t last = 0;
  Ticks begin{};
  Ticks end{};
};

struct WindowDef {
  Text name{};
  std::vector<StretchDef> stretches{};
};

/// Shapes relative to the pivot, in pixels: x forward (the way the character faces), y up.
struct RectShape {
  double left = 0, bottom = 0, width = 0, height = 0;
};
struct CircleShape {
  double x = 0, y = 0, radius = 0;
};
/// A sector of a circle that opens forwards.
struct ConeShape {
  double x = 0, y = 0;  ///< its tip
  double length = 0;
  double angle = 0;  ///< between its two edges, in degrees; above 0, at most 360
};
using Shape = std::variant<RectShape, CircleShape, ConeShape>;

/// A box of a clip: what of the character is where while some frames are shown. A name may stand several times, each
/// with frames and a shape of its own.
struct BoxDef {
  Text name{};
  Text role{};                          ///< body, hurt, hit, grab, or the game's own word
  std::vector<StretchDef> stretches{};  ///< while it is there; empty: the whole clip
  Shape shape{};                        ///< no cone
  Place place{};
  // Of what hits (see contact/contacts.hpp).
  std::vector<std::string> hits{};    ///< only who has one of these tags; empty: all
  std::vector<std::string> spares{};  ///< none who has one of these tags
  Ticks every{};                      ///< one swing hits a target again after this long; 0: never
};

enum class TrackCurve : std::uint8_t { step, linear, cubic };

/// A value at a time of a clip's own time.
struct TrackKey {
  Ticks time{};
  double value = 0;
  double in = 0, out = 0;  ///< of a cubic track: the slopes before and after it, per second
};

/// A property that moves along with a clip, such as a lid's angle. Before the first key it has its value, after the
/// last key that one's.
struct TrackDef {
  Text name{};
  TrackCurve curve = TrackCurve::linear;
  std::vector<TrackKey> keys{};  ///< in order of time
};

/// How far the art of the frames [first, last] is moved against the pivot, in pixels: x forward, y up.
struct OffsetDef {
  std::int32_t first = 0, last = 0;
  double x = 0, y = 0;
  Place place{};
};

/// What people add to one clip. Cues of one place are told in the order of `marks`.
struct ClipMarksDef {
  Text clip{};
  std::optional<std::pair<double, double>> pivot{};   ///< image pixels from the top left
  std::optional<std::pair<double, double>> offset{};  ///< of the whole clip's art, as OffsetDef
  std::vector<OffsetDef> offsets{};                   ///< of single frames, on top of `offset`
  bool airborne = false;                              ///< its feet leave the ground: no ground line is compared
  std::vector<BoxDef> boxes{};
  std::vector<TrackDef> tracks{};
  std::vector<MarkDef> marks{};
  std::vector<WindowDef> windows{};
};

// --- states ---------------------------------------------------------------------------------------------------------

/// An assignment (`pace = pace - 0.25`) or, where `tell` is set, a cue to tell.
struct ActionDef {
  Text assign{};
  Text tell{};
  std::vector<FieldDef> fields{};

  ActionDef() = default;
  ActionDef(const char* assignment) : assign(assignment) {}      // NOLINT: so that code reads well
  ActionDef(Text assignment) : assign(std::move(assignment)) {}  // NOLINT
};

struct VarDef {
  Text name{};
  std::variant<bool, std::int32_t, double> start{};
};

enum class StartKind : std::uint8_t { begin, same, clock, frame };

/// Where the play of the entered state begins.
struct StartDef {
  StartKind kind = StartKind::begin;
  std::int32_t frame = 0;
  Place place{};
};

enum class GoAt : std::uint8_t { none, end, loop };

/// Which of the clips of a fade tell their cues.
enum class FadeCues : std::uint8_t { entered, both };

/// A transition. Its event is at most one of `pulse`, `cue`, `at`, `after`; with `when` and `during` on top.
struct GoDef {
  Text pulse{};
  Text cue{};
  GoAt at = GoAt::none;
  std::optional<Ticks> after{};
  Text when{};
  Text during{};                              ///< a window's name ...
  std::optional<StretchDef> during_frames{};  ///< ... or frames
  Text to{};
  bool restart = false;
  StartDef start{};
  Ticks fade{};  ///< how long what is left fades out under what is entered; 0: it is cut
  FadeCues fade_cues = FadeCues::entered;
  std::vector<ActionDef> actions{};
  Place place{};
  std::vector<Text> accept{};  ///< codes of findings that are meant so
};

struct StateDef;

struct RegionDef {
  Text name{};
  Text initial{};
  std::vector<StateDef> states;  // no initializer: the type is not complete here
};

/// One of several clips by a choice input: a clip for each choice, all of one play mode.
struct ClipByDef {
  Text input{};
  std::vector<std::pair<Text, Text>> clips{};  ///< choice and clip
};

/// A clip of a blend, and where it counts alone.
struct BlendPointDef {
  double x = 0, y = 0;
  Text clip{};
  bool mirrored = false;  ///< shown mirrored
  bool backward = false;  ///< played backwards
};

/// Several clips at once by one or two expressions: their weights are continuous, sum to 1 and are exact at the points.
/// All clips run in phase.
struct BlendDef {
  Text x{}, y{};  ///< expressions; y empty: one axis
  std::vector<BlendPointDef> points{};
  double floor = 0;  ///< no weight is below it; times the points less than 1
  /// Beside the heaviest clip, those of at least this weight tell their cues too (spans only the heaviest's); a clip at
  /// several points weighs what they weigh together. Empty: the heaviest alone.
  std::optional<double> cues_above{};
  Place place{};
};

/// A state. Only a state without children plays: a clip, several clips one after the other, one of several by an input,
/// a bare length, one frame of a clip (a pose), or nothing.
struct StateDef {
  Text name{};
  Text clip{};
  std::vector<Text> sequence{};        ///< instead of `clip`: these in turn, each with all its passes
  std::optional<ClipByDef> clip_by{};  ///< instead of `clip`
  std::optional<BlendDef> blend{};     ///< instead of `clip`
  std::optional<std::int32_t> pose{};  ///< with `clip` or `clip_by`: it stands still on this frame
  std::optional<Ticks> length{};       ///< timing without art
  Text speed{};                        ///< an expression; empty for 1
  std::vector<Text> traits{};
  std::vector<VarDef> vars{};
  std::vector<ActionDef> enter{};
  std::vector<ActionDef> exit{};
  std::vector<ActionDef> each_loop{};
  bool final = false;
  bool sealed = false;
  Ticks linger{};
  Text initial{};
  std::vector<GoDef> go{};
  std::vector<StateDef> states{};
  std::vector<RegionDef> regions{};
  Place place{};
  std::vector<Text> accept{};  ///< codes of findings that are meant so
};

/// A shape in which something finds its targets, at an instant.
struct ReachDef {
  Text name{};
  Shape shape{};
  std::vector<std::string> hits{};    ///< only who has one of these tags; empty: all
  std::vector<std::string> spares{};  ///< none who has one of these tags; `self` is always spared
  std::vector<Text> accept{};         ///< codes of findings that are meant so
};

/// A sensor around the machine that others enter and leave. It fills inputs.
struct ZoneDef {
  Text name{};
  Shape shape{};
  std::vector<std::string> tags{};  ///< who counts: has one of these; empty: all
  Text inside{};                    ///< a bool (anyone is in it) or an int (how many are); may be empty
  Text enter{}, leave{};            ///< pulses; may be empty
};

/// Other art for the same clips, while a condition holds.
struct LookDef {
  Text name{};
  Text when{};                                             ///< over inputs, the machine's variables and in()
  std::vector<std::pair<std::string, std::string>> art{};  ///< image and the one shown instead
};

/// What its author says of a machine, whatever the game does: see docs/checking.md. The engine does not read it.
enum class ClaimKind : std::uint8_t { never, always, once, when, within, next, can };
struct ClaimDef {
  Text name{};
  ClaimKind kind = ClaimKind::never;
  Text first{};    ///< of `never`, `always`, `once`, `when`, `from`: the expression after that word
  Text second{};   ///< of `then`, `reaches`, `next`, `can`
  Ticks within{};  ///< of `when` and `within`: no later than this
};

/// Which keys of a keyboard write an input where a machine is tried out: for one that has two ends both of them, for
/// choices one each. A tool's affair: nothing that runs knows of it.
struct KeysDef {
  Text input{};
  std::vector<Text> codes{};  ///< as KeyboardEvent.code names them
};

/// A whole machine. `root` is the state around all others: its `go` holds from anywhere.
struct MachineDef {
  Text name{};
  std::vector<std::string> files{};  ///< what Place::file indexes
  std::vector<InputDef> inputs{};
  std::vector<CueDef> cues{};
  std::vector<ClipDef> clips{};
  std::vector<ClipMarksDef> marks{};
  double unit = 32;  ///< pixels to a world unit
  std::vector<ReachDef> reaches{};
  std::vector<ZoneDef> zones{};
  std::vector<LookDef> looks{};  ///< the first whose condition holds counts
  std::vector<Text> accept{};    ///< of all its files: codes, or a code and a name (`unused-clip wave`)
  std::vector<ClaimDef> claims{};
  std::vector<Text> assumed{};  ///< expressions that the game keeps true whenever it writes; claims build on them
  std::vector<KeysDef> keys{};
  StateDef root;
};

}  // namespace mobrin
