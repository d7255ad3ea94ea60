// The loader's working state: one definition filled from several files.
#pragma once

#include <algorithm>
#include <array>
#include <cstddef>
#include <map>
#include <set>
#include <string>
#include <vector>

#include "reader.hpp"

namespace mobrin::io {

inline constexpr std::size_t kMaxFiles = 256;

// A `part:` waits until all clips are known.
struct PendingPart {
  std::size_t clip = 0;  // index into the definition's clips; that says of which it is a part
  std::optional<std::vector<FrameDef>> chosen;  // FrameArt::tile holds the index, FrameDef::hold the factor
  Ticks from, to;
  bool has_from = false, has_to = false, own_timing = false;
  Place place;
};

// A key of a track at a frame waits likewise.
struct PendingKey {
  std::string clip;
  std::size_t track = 0, index = 0;  // into the marks' tracks and their keys
  TrackKey key;
  std::int32_t frame = -1;  // -1: it has its time
  bool at_end = false;
  Place place;
};

// A packed sheet that a file of its own describes.
struct PackedSheet {
  struct Picture {
    std::string name;
    PixelRect rect{}, whole{};
  };
  std::string image;  // as seen from here
  std::vector<Picture> pictures;
};
// As load_character, but of packed sheets every name is there: they may have been packed anew since.
[[nodiscard]] Loaded load_whatever_is_packed(const std::string& path, const FileText& instead = {});
// Empty where something is wrong, with the reasons as findings.
[[nodiscard]] std::optional<PackedSheet> read_packed_sheet(const std::string& path, std::vector<Finding>& findings);

class Loader {
 public:
  Loader() : reader(definition.files, findings) {}

  // Reads a file's tree into the definition. `main` is the file the user named. False where it is none that is read.
  bool read_file(YamlNode& root, const std::string& path, bool main);
  void resolve_parts();
  void resolve_keys();
  // Of a file that describes one; empty with findings.
  [[nodiscard]] std::optional<PackedSheet> read_packed_sheet(const std::string& path);

  MachineDef definition;
  std::vector<Finding> findings;
  Reader reader;
  bool has_machine = false;
  std::string main_folder;
  bool trusts_packed_names = false;  // a packed sheet is not looked at: what a clip names is on it
  std::set<std::string> broken;      // names whose entries had errors: what is then missing is no finding of its own

  // Whether one of the findings after the first `before` is an error.
  [[nodiscard]] bool errors_since(std::size_t before) const {
    return std::any_of(findings.begin() + static_cast<std::ptrdiff_t>(before), findings.end(),
                       [](const Finding& each) { return is_error(each); });
  }

 private:
  // Notes `name` as broken if an error is found while it is watched.
  class Watch {
   public:
    Watch(Loader& loader, std::string name)
        : loader_(loader), name_(std::move(name)), before_(loader.findings.size()) {}
    ~Watch() {
      if (loader_.errors_since(before_)) loader_.broken.insert(name_);
    }
    Watch(const Watch&) = delete;
    Watch& operator=(const Watch&) = delete;

   private:
    Loader& loader_;
    std::string name_;
    std::size_t before_;
  };

  std::size_t frames_read_ = 0;  // of all clips together

  struct Packed {  // a picture on a sheet
    PixelRect rect{}, whole{};
  };
  struct Sheet {
    std::string image;
    std::map<std::string, Packed, std::less<>> pictures;
    bool broken = false;
  };

  // load.cpp
  void read_use(const YamlNode& node, const std::string& folder);
  // What is named from now on is seen from this folder.
  void enter_folder(const std::string& folder);
  // Whether a name in a file of `folder` stays within the folders that were asked for; else says so, once a folder.
  bool stays(const std::string& folder, const Text& written);
  void read_inputs(const YamlNode& node);
  bool told_as_type(const YamlNode& value);
  bool told_as_pulse(const YamlNode& value, const std::string& what);
  std::optional<InputDef> read_input(const YamlNode& key, const YamlNode& value);
  void read_cues(const YamlNode& node);
  bool read_wrapped_fields(const YamlNode& key, const YamlNode& value, std::vector<FieldDef>& out);
  std::vector<FieldDef> read_fields(const YamlNode& node, std::string_view cue,
                                    std::initializer_list<std::string_view> reserved);

  // load_sheets.cpp
  void read_sheets(const YamlNode& node);
  void read_sheet(const YamlNode& named_by, const Fields& fields, Sheet& sheet);
  std::optional<Packed> read_packed(const YamlNode& name, const YamlNode& rect);
  // The sheet that a clip names: an entry of `sheets:`, or a file that describes one; null for an image.
  const Sheet* sheet_named(const YamlNode& node);
  const Sheet* described_sheet(const YamlNode& node);

  // load_clips.cpp
  void read_clips(const YamlNode& node);
  void read_clip(const YamlNode& key, const YamlNode& value);
  void read_part(const YamlNode& value, const Fields& fields, ClipDef& clip);
  std::vector<FrameDef> read_frames(const YamlNode& node, const Sheet* sheet);
  void look_for_count(const YamlNode& frames);
  void read_art(const Fields& fields, const Sheet* sheet, ClipDef& clip);
  void read_times(const Fields& fields, ClipDef& clip);
  // As seen from the main file.
  [[nodiscard]] std::string art_path(const Text& written) {
    (void)stays(file_folder_, written);
    return join(art_folder_, written.text);
  }

  // load_marks.cpp
  void read_marks(const YamlNode& node);
  void note_replaced(const std::string& clip, const YamlNode& marks);
  // A list of exactly so many numbers.
  template <std::size_t N>
  std::optional<std::array<double, N>> read_numbers(const YamlNode& node, const std::string& what,
                                                    const char* expected) {
    std::array<double, N> out{};
    if (node.kind != YamlNode::Kind::list || node.items.size() != N) {
      reader.no_numbers(node, what, expected);
      return std::nullopt;
    }
    for (std::size_t i = 0; i < N; ++i) {
      const auto number = reader.number(node.items[i], what);
      if (!number) return std::nullopt;
      out[i] = *number;
    }
    return out;
  }
  void read_offsets(const YamlNode& node, ClipMarksDef& marks);
  void read_box(const YamlNode& node, ClipMarksDef& marks);
  // Of `{cue: step, foot: left}`, after it was told, what is meant: `{step: {foot: left}}`.
  std::optional<YamlNode> named_by_key(const YamlNode& cue);
  void read_mark_cues(const YamlNode& node, ClipMarksDef& marks);
  void read_mark_cue(const YamlNode& key, const YamlNode& value, MarkDef at, ClipMarksDef& marks);
  void read_spans(const YamlNode& node, ClipMarksDef& marks);
  // `{2-4: hum}` where the name stands first; told.
  bool turned_round(const YamlNode& key, const YamlNode& value, const std::string& what);

  // load_space.cpp
  std::vector<std::string> read_tags(const Fields& fields, std::string_view key);
  std::optional<Shape> read_shape(const YamlNode& node, const Fields& fields, const std::string& what, bool cones,
                                  const char* several);
  void read_reaches(const YamlNode& node);
  void read_zones(const YamlNode& node);
  void read_looks(const YamlNode& node);
  void read_blend(const YamlNode& node, StateDef& state);
  void read_tracks(const YamlNode& node, ClipMarksDef& marks);

  // load_states.cpp
  void read_states(const YamlNode& node, const std::string& owner, std::vector<StateDef>& states);
  void read_state(const YamlNode& value, StateDef& state);
  void read_initial(const YamlNode& node, const std::string& owner, Text& initial);
  void read_regions(const YamlNode& node, std::vector<RegionDef>& regions);
  void read_vars(const YamlNode& node, std::vector<VarDef>& vars);
  void read_go(const YamlNode& node, std::vector<GoDef>& list);
  // Whether `at:` says what other keys do; that is told.
  [[nodiscard]] bool at_a_time_or_frame(const YamlNode& at);
  // False where its event, its guard or its target could not be read.
  bool read_transition(const YamlNode& node, GoDef& go);
  bool read_during(const YamlNode& node, GoDef& go);
  void read_start(const YamlNode& node, GoDef& go);
  std::vector<ActionDef> read_actions(const YamlNode& node);
  void read_clip_choice(const YamlNode& node, StateDef& state);
  void read_pose(const YamlNode& node, StateDef& state);

  void read_character(const YamlNode& root, const std::string& path);
  void read_claims(const YamlNode& node);
  void read_keys(const YamlNode& node);
  void read_unit(const YamlNode& node);

  // Of a character: what its machine's own files then do not define again.
  bool has_character_ = false;
  bool has_unit_ = false;
  bool own_looks_ = false;
  std::set<std::string, std::less<>> own_clips_, own_marks_;

  std::set<std::string> read_files_;
  std::map<std::string, Sheet, std::less<>> sheets_;
  std::map<std::string, Sheet, std::less<>> described_;  // by path
  std::vector<PendingPart> parts_;
  std::vector<PendingKey> keys_;
  std::string art_folder_;            // of the file being read, as seen from the main file
  std::string file_folder_;           // of the file being read
  std::vector<std::string> roots_;    // folders that names may not leave
  std::set<std::string> told_roads_;  // out of them
};

}  // namespace mobrin::io
