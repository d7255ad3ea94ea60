// A clips file that import keeps up: what it says of clips, and how it is changed without touching the rest.
#pragma once

#include <algorithm>
#include <functional>
#include <string>
#include <vector>

#include "clip_pictures.hpp"
#include "mobrin/core/parts.hpp"
#include "yaml_edit.hpp"

namespace mobrin::io {

// A clip as art says it, or as a file does.
struct ArtClip {
  enum class Kind : std::uint8_t { images, cells, length, other };
  Kind kind = Kind::other;
  Text name{};
  std::string source{};  // the sheet or the animation; of a clip without pictures where it comes from
  bool sheet = false;    // of cells: of a sheet, not of an animation
  bool packed = false;   // of a described one: its pictures have names and rectangles instead of numbers
  PixelRect tile{};
  std::int32_t margin = 0, spacing = 0;
  std::vector<ArtPicture> pictures{};
  bool knows_all = true;  // `pictures` are all of the art's, not only those that are shown
  std::vector<PictureFrame> frames{};
  Fraction fps{};  // num 0: frames have times
  Ticks length{};
  PlayMode play{};
  bool timed = false;  // the art says its timing itself

  [[nodiscard]] ClipDef definition() const;
  // Whether a file of this name is one of its pictures.
  [[nodiscard]] bool has_image(const std::string& file) const {
    const auto is = [&](const ArtPicture& picture) { return picture.name == file; };
    return kind == Kind::images && std::any_of(pictures.begin(), pictures.end(), is);
  }
};

// The clips that a file says, in its order. REQUIRES: the file loads, as `loaded`.
[[nodiscard]] std::vector<ArtClip> clips_of(const YamlNode& root, const Machine& loaded);

// Changes to the text of a clips file; an empty text begins a new one. Each call leaves a text that can be read.
class ClipsFile {
 public:
  // REQUIRES: the text parses.
  explicit ClipsFile(std::string text);

  // Behind those that are there, in this order.
  void add(const std::vector<ArtClip>& clips);
  // Writes what of the first of two (which stands in the file) is another in the second, its name too, and no more.
  // Each clip once.
  void change(const std::vector<std::pair<ArtClip, ArtClip>>& changes);
  void remove(const std::string& clip);
  [[nodiscard]] std::string text() const { return mark_ + text_; }

 private:
  void read();  // the tree of the text; none where it does not parse
  void edit(const std::function<void(YamlText&)>& change);
  [[nodiscard]] const YamlEntry* clips() const;
  [[nodiscard]] const YamlEntry* clip(const std::string& name) const;
  // Whether clips stand on lines of their own, or would.
  [[nodiscard]] bool in_lines() const;
  void add_flow(const ArtClip& clip);
  // Each in a text of its own; false, with nothing done, where one clip cannot be read alone.
  bool change_apart(const std::vector<std::pair<ArtClip, ArtClip>>& changes);
  void change_one(const ArtClip& before, const ArtClip& after);
  void rename(const std::string& clip, const std::string& to);
  void set(const std::string& clip, const std::string& key, const std::string& value);
  void unset(const std::string& clip, const std::string& key);
  void set_images(const ArtClip& before, const ArtClip& after);

  std::string mark_;  // of byte order
  std::string text_;  // behind it
  YamlNode root_;
  bool json_ = false;
};

}  // namespace mobrin::io
