// What the doors share: values out of bytes, and a play of whatever comes in.
#pragma once

#include <cstdint>
#include <cstring>
#include <initializer_list>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "doors.hpp"
#include "mobrin/check/reference.hpp"
#include "mobrin/core/instance.hpp"

namespace mobrin::fuzz {

using Bytes = std::span<const std::uint8_t>;

// Ends the program, with the words, where something is not so.
void must(bool holds, const char* what);

[[nodiscard]] inline std::string_view text_of(Bytes bytes) {
  return {reinterpret_cast<const char*>(bytes.data()), bytes.size()};
}

// Values out of bytes; zeros once they are used up.
class Source {
 public:
  explicit Source(Bytes bytes) : bytes_(bytes) {}
  [[nodiscard]] bool more() const { return at_ < bytes_.size(); }
  template <class T>
  T take() {
    T out{};
    const std::size_t size = std::min(sizeof(T), bytes_.size() - at_);
    if (size > 0) std::memcpy(&out, bytes_.data() + at_, size);
    at_ += size;
    return out;
  }
  // Below `count`.
  std::uint32_t pick(std::size_t count) {
    return count == 0 ? 0 : take<std::uint16_t>() % static_cast<std::uint32_t>(count);
  }
  // Mostly small, sometimes anything.
  Ticks time() {
    const auto kind = take<std::uint8_t>();
    if (kind < 200) return Ticks(take<std::uint16_t>() * std::int64_t{20'000});
    if (kind < 250) return seconds(take<std::uint8_t>());
    return Ticks(take<std::int64_t>());
  }

 private:
  Bytes bytes_;
  std::size_t at_ = 0;
};

// The path of a file with these bytes, for what reads files only; until the next call.
[[nodiscard]] const std::string& file_of(Bytes bytes);

// A folder of the program's own with files of the demo; gone at the program's end.
class Folder {
 public:
  explicit Folder(std::initializer_list<const char*> of_the_demo);
  ~Folder();
  Folder(const Folder&) = delete;
  Folder& operator=(const Folder&) = delete;
  [[nodiscard]] std::string file(const char* name) const { return path_ + "/" + name; }
  [[nodiscard]] const std::string& path() const { return path_; }

 private:
  std::string path_;
};

// The demo's folder; the keeper, for what comes in beside a machine.
[[nodiscard]] std::string demo_folder();
[[nodiscard]] const Machine& keeper();

// Writes something to an input, whatever it is. By index: a pack may have no names.
void write_any(Instance& it, Source& from);
// What an instance can be asked at any time.
void look_at_all(const Instance& it);
// Engine and reference tell the same of a script.
void same_by_reference(const MachineDef& definition, const Machine& machine, const std::vector<ScriptEntry>& script,
                       Ticks until);
// Five seconds of play, cut anywhere, with a crowd beside it.
void play(const Machine& machine, Source from);

// Each file's own doors; see doors.cpp.
void machine(Bytes bytes);
void art(Bytes bytes);
void imports(Bytes bytes);
void tape(Bytes bytes);
void pack_with_right_sum(Bytes bytes);
void saved(Bytes bytes);
void png(Bytes bytes);
void animation(Bytes bytes);
void webp(Bytes bytes);
void gltf(Bytes bytes);
void expression(Bytes bytes);
void scene(Bytes bytes);
void mark_edits(Bytes bytes);
void clip_edits(Bytes bytes);
void calls(Bytes bytes);
void lives(Bytes bytes);
void meetings(Bytes bytes);
void agree(Bytes bytes);
void definitions(Bytes bytes);
void page_commands(Bytes bytes);
void page_files(Bytes bytes);
void game_messages(Bytes bytes);
void page_messages(Bytes bytes);

}  // namespace mobrin::fuzz
