// Machine: the compiled, immutable definition that all its instances share, and typed handles to its names.
#pragma once

#include <cstdint>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "mobrin/core/field_value.hpp"
#include "mobrin/core/finding.hpp"
#include "mobrin/core/picture.hpp"
#include "mobrin/core/result.hpp"
#include "mobrin/core/time.hpp"

namespace mobrin {

class Machine;
// What a machine is made of; see definition.hpp and parts.hpp, which who looks into it includes.
struct MachineDef;
struct InputDef;
struct CueDef;
struct ReachDef;
struct LookDef;
struct ClipInfo;
struct StateInfo;
struct RegionInfo;
struct TransitionInfo;
struct ZoneInfo;
namespace detail {
struct MachineData;

/// Not for users: holds compiled tables together with all its copies; the last one gives them back.
class SharedTables {
 public:
  explicit SharedTables(const MachineData* tables);  // nobody else's; taken over
  SharedTables(const SharedTables& other) noexcept;
  SharedTables(SharedTables&& other) noexcept : tables_(other.tables_) { other.tables_ = nullptr; }
  SharedTables& operator=(SharedTables other) noexcept {
    const MachineData* mine = tables_;
    tables_ = other.tables_;
    other.tables_ = mine;
    return *this;
  }
  ~SharedTables();
  [[nodiscard]] const MachineData& operator*() const { return *tables_; }
  [[nodiscard]] const MachineData* operator->() const { return tables_; }

 private:
  const MachineData* tables_;
};
}  // namespace detail

/// One of a choice input's names. Get it from Input<Choice>::of.
struct Choice {
  std::uint8_t index = 0;                            ///< place among the input's choices, from 0
  friend bool operator==(Choice, Choice) = default;  ///< The same index.
};

/// Handles are small values that know the machine they belong to; one of another machine is refused, never misread.
/// Make them once, with Machine::input and its like, and keep them.
template <class T>
struct Input {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint16_t index = 0;    ///< into inputs()
};
/// A pulse of a machine.
struct Pulse {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint16_t index = 0;    ///< into inputs()
};
/// A state of a machine.
struct State {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint16_t index = 0;    ///< into states()
};
/// A trait of a machine.
struct Trait {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint16_t index = 0;    ///< into traits()
};
/// To compare with what is shown: `shown.clip == walk.index`.
struct Clip {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint16_t index = 0;    ///< into clips()
};
/// One of several state machines that run at once.
struct Region {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint16_t index = 0;    ///< into regions()
};
/// A variable of the machine or of a state.
struct Variable {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint32_t index = 0;    ///< of its place in the block
};
/// A field of a cue, for reading it without a search.
struct Field {
  std::uint32_t machine = 0;  ///< Machine::serial() of the machine it is for
  std::uint16_t cue = 0;      ///< into cues()
  std::uint16_t index = 0;    ///< into the cue's fields
};

/// Stands for no index.
inline constexpr std::uint16_t kNoIndex = 0xffff;

/// A compiled machine. Immutable, and cheap to copy: copies share the compiled tables, which live as long as any copy
/// (an Instance and a Router hold one). Any number of threads may use one.
class Machine {
 public:
  [[nodiscard]] std::string_view name() const;  ///< As its file says; lives as long as the machine.

  /// A handle to an input. T is bool, std::int32_t, float or Choice and must be the input's own type; the error names
  /// the nearest input, or says which type it has.
  template <class T>
  [[nodiscard]] Result<Input<T>> input(std::string_view name) const;
  /// The pulse of that name; an error, with the nearest name, where there is none.
  [[nodiscard]] Result<Pulse> pulse(std::string_view name) const;
  /// A choice of a choice input by its name.
  [[nodiscard]] Result<Choice> choice(Input<Choice> input, std::string_view name) const;
  /// By path: `walk`, `faint/lie`.
  [[nodiscard]] Result<State> state(std::string_view path) const;
  /// The trait of that name; an error where there is none.
  [[nodiscard]] Result<Trait> trait(std::string_view name) const;
  /// A field by its cue and its name there; an error where there is none.
  [[nodiscard]] Result<Field> field(std::string_view cue, std::string_view field) const;
  /// To compare with Cue::cue: an index into cues().
  [[nodiscard]] Result<std::uint16_t> cue(std::string_view name) const;
  /// The clip of that name; an error where there is none.
  [[nodiscard]] Result<Clip> clip(std::string_view name) const;
  /// By path: `body`, `boss/left`. A machine without `regions:` has one, whose path is empty.
  [[nodiscard]] Result<Region> region(std::string_view path) const;
  /// A variable of the whole machine, or of the state with this path.
  [[nodiscard]] Result<Variable> variable(std::string_view name, std::string_view state = {}) const;

  /// Names by index, as shown(), active() and records give it; empty for kNoIndex. Views live as long as the machine.
  [[nodiscard]] std::string_view clip_name(std::uint16_t index) const;
  [[nodiscard]] std::string_view state_path(std::uint16_t index) const;   ///< A state's path by its index; likewise.
  [[nodiscard]] std::string_view region_path(std::uint16_t index) const;  ///< A region's path by its index; likewise.

  /// All image files that frames and looks show, each once, as the files name them: what to load before the game
  /// begins. Packs without names have them too.
  [[nodiscard]] std::span<const std::string> images() const;
  /// The picture of a clip's frame in a look (an index into looks(), or kNoIndex); none for a frame without a picture.
  /// Instance::picture does it for what a region shows.
  [[nodiscard]] Picture picture(std::uint16_t clip, std::int32_t frame, std::uint16_t look = kNoIndex,
                                bool mirrored = false) const;

  /// Bytes of one instance's state, without tickets.
  [[nodiscard]] std::size_t block_size() const;
  /// No instant tells more than this many records (see Cue), whatever the inputs; saturated at 2^32 - 1.
  [[nodiscard]] std::uint32_t most_records_per_instant() const;

  /// What the machine is made of, for tools: include parts.hpp to look into it. Views live as long as the machine.
  [[nodiscard]] std::span<const InputDef> inputs() const;
  [[nodiscard]] std::span<const CueDef> cues() const;     ///< Cues, by index.
  [[nodiscard]] std::span<const ClipInfo> clips() const;  ///< Clips, by index.
  /// In file order, the root (with an empty path) first.
  [[nodiscard]] std::span<const StateInfo> states() const;
  [[nodiscard]] std::span<const RegionInfo> regions() const;          ///< Regions, by index.
  [[nodiscard]] std::span<const TransitionInfo> transitions() const;  ///< Transitions, by index.
  [[nodiscard]] std::span<const std::string> files() const;           ///< The files it was read from.
  [[nodiscard]] std::span<const ReachDef> reaches() const;            ///< Reaches, by index.
  [[nodiscard]] std::span<const ZoneInfo> zones() const;              ///< Zones, by index.
  [[nodiscard]] std::span<const LookDef> looks() const;               ///< Looks in the order in which they are tried.
  [[nodiscard]] std::span<const std::string> traits() const;          ///< Names of traits, by index.
  /// Pixels to a world unit.
  [[nodiscard]] double unit() const;

  /// The compiled form as text: states, transitions, expressions, timelines. For tests and the curious.
  [[nodiscard]] std::string dump() const;
  /// What one stage of compiling made (see compile_stages), as text; empty for a name that is none.
  [[nodiscard]] std::string dump(std::string_view stage) const;

  /// A hash of all that decides what the machine does: equal for the same definition, in every process.
  [[nodiscard]] std::uint64_t fingerprint() const;

  /// The number that its handles carry: another one for each machine that is compiled or loaded in a process.
  [[nodiscard]] std::uint32_t serial() const;

  /// Not for users: the compiled tables.
  [[nodiscard]] const detail::MachineData& data() const { return *data_; }
  /// Over tables that were made elsewhere in the library.
  explicit Machine(detail::SharedTables data) : data_(std::move(data)) {}

 private:
  detail::SharedTables data_;
};

/// What compile() gives: the machine if nothing in it is an error, and all findings in any case.
struct Compiled {
  std::optional<Machine> machine;  ///< empty where a finding is an error
  std::vector<Finding> findings;   ///< what is wrong, and what is doubtful
};

/// Checks and compiles a definition. Allocates; linear in its size.
[[nodiscard]] Compiled compile(const MachineDef& definition);

/// A stage of compiling: its name, for Machine::dump, and what it makes.
struct StageInfo {
  std::string_view name;   ///< a word, for Machine::dump()
  std::string_view makes;  ///< what it makes, in a few words
};
/// The stages in the order in which they run.
[[nodiscard]] std::vector<StageInfo> compile_stages();

}  // namespace mobrin
