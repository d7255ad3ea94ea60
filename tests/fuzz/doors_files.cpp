// The doors for files and texts.
#include <algorithm>
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <fstream>

#include "kit.hpp"
#include "machine/hash.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/core/builder.hpp"
#include "mobrin/io/animation.hpp"
#include "mobrin/io/clip_edit.hpp"
#include "mobrin/io/gltf.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/import.hpp"
#include "mobrin/io/load.hpp"
#include "mobrin/io/marks_edit.hpp"
#include "mobrin/io/record.hpp"
#include "mobrin/io/save.hpp"
#include "mobrin/io/scene.hpp"
#include "mobrin/io/shape_edit.hpp"
#include "mobrin/pack/pack.hpp"
#include "mobrin/prove/art_files.hpp"

namespace mobrin::fuzz {
namespace {

// Not as the library writes files, which waits for the disk.
bool write(const std::string& path, std::string_view bytes) {
  return bool(std::ofstream(path, std::ios::binary) << bytes);
}

// Up to a line's end, which goes with it.
std::string take_line(std::string_view& text) {
  const std::size_t end = std::min(text.find('\n'), text.size());
  std::string out(text.substr(0, end));
  text.remove_prefix(std::min(end + 1, text.size()));
  return out;
}

}  // namespace

void machine(Bytes bytes) {
  const Loaded loaded = load_character_text(text_of(bytes), "fuzz/m.yaml");
  for (const Finding& finding : loaded.findings) (void)finding.text();
  if (!loaded.machine) return must(has_errors(loaded.findings), "what is refused says why");
  if (!loaded.has_machine) return;
  (void)logic_findings(*loaded.definition, *loaded.machine);
  const auto packed = load_pack(pack(*loaded.machine));
  must(bool(packed) && packed->fingerprint() == loaded.machine->fingerprint(), "a machine's pack is that machine");
  play(*loaded.machine, Source(bytes.first(bytes.size() / 2)));
}

// The same beside the demo's pictures, which its clips can be cut from.
void art(Bytes bytes) {
  const Loaded loaded = load_character_text(text_of(bytes), demo_folder() + "/fuzzed.yaml");
  if (!loaded.machine) return must(has_errors(loaded.findings), "what is refused says why");
  for (const Finding& finding : art_file_findings(loaded, demo_folder() + "/fuzzed.yaml")) (void)finding.text();
}

namespace {

// Pictures of these names, a line each, in a folder of their own.
std::string folder_of(const Folder& parent, std::string_view names) {
  const std::string made = parent.file("pictures");
  std::filesystem::remove_all(made);
  std::filesystem::create_directories(made);
  for (int left = 6; !names.empty() && left > 0; --left) {
    std::string name = take_line(names);
    std::erase_if(name, [](char c) { return c == '/' || c == '\0' || c == '.'; });
    std::error_code refused;
    if (!name.empty() && name.size() < 40)
      std::filesystem::copy_file(parent.file("puff.png"), made + "/" + name + ".png", refused);
  }
  return made;
}

// What was made loads.
void must_load(const std::string& text, const std::string& name) {
  const Loaded loaded = load_character_text(text, name);
  for (const Finding& finding : loaded.findings)
    if (is_error(finding)) std::fprintf(stderr, "%s\n", finding.text().c_str());
  must(!has_errors(loaded.findings), "what was imported loads");
}

}  // namespace

// Art of some kind, and the clips file that is there already.
void imports(Bytes bytes) {
  static const Folder folder{"smoker.png", "puff.png"};
  Source from(bytes);
  const auto kind = from.take<std::uint8_t>() % 5;
  const std::size_t clips = from.take<std::uint16_t>();
  const Bytes rest = bytes.subspan(std::min<std::size_t>(3, bytes.size()));
  const std::string_view art = text_of(rest.first(rest.size() - std::min(clips, rest.size())));
  ImportOptions options;
  options.out = folder.file("made.clips.yaml");
  for (const char* of_another_run : {"packed.yaml", "lid.gltf", "moving.gif", "made.clips.yaml"})
    std::filesystem::remove(folder.file(of_another_run));
  std::string source;
  switch (kind) {
    case 0:
      source = folder.file("packed.yaml");
      break;
    case 1: {
      source = folder.file("smoker.png");
      SheetGrid grid;
      grid.width = from.take<std::uint8_t>(), grid.height = from.take<std::uint8_t>();
      grid.margin = from.take<std::uint8_t>() % 4, grid.spacing = from.take<std::uint8_t>() % 4;
      if (const auto count = from.take<std::uint8_t>(); count > 0) grid.count = count;
      for (int row = from.take<std::uint8_t>() % 4; row > 0; --row) grid.rows.emplace_back(row - 1, "row");
      options.grid = grid;
      break;
    }
    case 2:
      source = folder.file("lid.gltf");
      options.tracks = true;
      break;
    case 3:
      source = folder.file("moving.gif");
      break;
    default:
      source = folder_of(folder, art);
  }
  if (kind == 0 || kind == 2 || kind == 3) must(write(source, art), "the art is written");
  options.sources = {source};
  const std::string_view there = text_of(rest.subspan(art.size()));
  if (!there.empty()) must(write(options.out, there), "the clips file is written");
  Imported imported = import_art(options);
  // What stood in the file already and does not load stays as it is.
  if (has_errors(imported.findings) || (!there.empty() && !load_character(options.out).machine)) return;
  must_load(imported.text, options.out);
  // Somebody adds marks; the art changes; it is imported again.
  if (imported.clips.empty() || !there.empty()) return;
  const std::string& clip = imported.clips[0].name.text;
  constexpr const char* kMarks =
      "    pivot: [3, 4]\n    offsets: {0: [1, 0]}\n    cues: {0: step, 0.end: over}\n    windows: {hot: 0}\n"
      "    boxes: [{name: body, role: hurt, frames: 0, rect: [0, 0, 4, 4]}]\n    tracks: {lid: {keys: {0: 0, 0.end: "
      "1}}}\n"
      "cues: {step: {}, over: {}}\n";
  must(write(options.out, imported.text + "marks:\n  \"" + clip + "\":\n" + kMarks), "the clips file is written");
  std::string changed(art);
  if (options.grid)
    options.grid->count = 3;
  else if (kind == 4)
    options.sources = {folder_of(folder, "walk_0\nwalk_1\nwalk_2\n" + changed)};
  else if (kind == 0)
    must(write(source, changed.replace(changed.find_last_of('0') % (changed.size() + 1), 1, "8")),
         "the art is written");
  options.as_new = (bytes[1] & 1) != 0;
  imported = import_art(options);
  if (!has_errors(imported.findings) && load_character(options.out).machine) must_load(imported.text, options.out);
}

void tape(Bytes bytes) {
  const LoadedTape loaded = load_tape(file_of(bytes));
  if (!loaded.tape) return must(has_errors(loaded.findings), "what is refused says why");
  const std::string written = tape_text(*loaded.tape);
  const LoadedTape again = load_tape_text(written, "fuzz/again.yaml");
  must(again.tape.has_value(), "a tape that was written is read");
  if (has_errors(check_tape(*loaded.tape, keeper(), "t"))) return;
  Instance it(keeper());
  RunOptions options;
  options.until = std::min(loaded.tape->until.value_or(seconds(1)), seconds(5));
  std::size_t records = 0;
  run_tape(it, *loaded.tape, options, [&](const Cue&) { ++records; });
}

void pack_with_right_sum(Bytes bytes) {
  constexpr std::size_t kHead = 40;
  std::vector<std::byte> packed(bytes.size() + (bytes.size() < kHead ? kHead : 0));
  std::memcpy(packed.data(), bytes.data(), bytes.size());
  const auto put = [&](std::size_t at, auto value) {
    for (std::size_t i = 0; i < sizeof value; ++i) packed[at + i] = static_cast<std::byte>(value >> (8 * i));
  };
  std::memcpy(packed.data(), "MOBRINPK", 8);
  put(8, std::uint32_t{3});
  put(12, std::uint32_t{std::to_integer<std::uint32_t>(packed[12]) & 1});
  put(16, std::uint64_t{packed.size() - kHead});
  detail::Hash sum;
  sum.add(std::span<const std::byte>(packed).subspan(kHead - 8));
  put(24, sum.value());
  const auto loaded = load_pack(packed);
  if (!loaded) return must(!loaded.error().text().empty(), "what is refused says why");
  must(bool(load_pack(pack(*loaded))), "what was loaded can be packed and loaded");
  play(*loaded, Source(bytes.last(std::min<std::size_t>(bytes.size(), 200))));
}

void saved(Bytes bytes) {
  const auto save = read_save(text_of(bytes));
  if (!save) return must(!save.error().text().empty(), "what is refused says why");
  Instance it(keeper());
  for (const CarryLoss& loss : load(*save, it)) must(!loss.text.empty(), "a loss says what it is");
  (void)it.advance(seconds(1), [](const Cue&) {});
  look_at_all(it);
  const auto again = read_save(save_text(it));
  Instance other(keeper());
  must(again && load(*again, other).empty() && other.hash() == it.hash(), "what was saved is what is loaded");
}

void png(Bytes bytes) {
  const auto image = load_png(file_of(bytes));
  if (!image) return;
  must(image->rgba.size() ==
           std::size_t{4} * static_cast<std::size_t>(image->width) * static_cast<std::size_t>(image->height),
       "an image has its pixels");
  if (image->rgba.size() < 100'000) must(bool(png_bytes(*image)), "an image that was read is written");
}

void animation(Bytes bytes) {
  static const Folder folder{};
  std::vector<Image> frames;
  std::size_t size = 0;
  const auto read = read_animation(file_of(bytes), [&](const Image& image) {
    size += image.rgba.size();
    if (size < 100'000) frames.push_back(image);
  });
  if (!read || frames.empty() || size >= 100'000) return;
  must(bool(write_apng(frames, {1, 10}, folder.file("again.png"))), "an animation that was read is written");
  std::size_t at = 0;
  must(bool(read_animation(folder.file("again.png"),
                           [&](const Image& image) { at += image.rgba == frames[at].rgba ? 1 : 0; })) &&
           at == frames.size(),
       "an animation that was written is read");
}

// Still or animated, and its size from its head alone.
void webp(Bytes bytes) {
  const std::string& file = file_of(bytes);
  const ImageKind kind = image_kind(file);
  if (kind == ImageKind::still) {
    if (const auto image = load_image(file))
      must(image->rgba.size() ==
               std::size_t{4} * static_cast<std::size_t>(image->width) * static_cast<std::size_t>(image->height),
           "an image has its pixels");
  } else if (kind != ImageKind::none) {
    (void)read_animation(file);
  }
}

void gltf(Bytes bytes) {
  const std::string& file = file_of(bytes);
  if (looks_like_gltf(file)) (void)read_gltf(file);
}

void expression(Bytes bytes) {
  if (bytes.size() > 4'000) return;
  MachineBuilder builder("m");
  builder.input("b", BoolInput{}).input("n", IntInput{0, -9, 9}).input("x", FloatInput{0, -1, 1}).pulse("p");
  builder.input("h", ChoiceInput{{"one", "two"}});
  StateDef a, c;
  a.name = "a";
  GoDef go;
  go.when = std::string(text_of(bytes));
  go.to = "c";
  a.go.push_back(go);
  c.name = "c";
  builder.state(a).state(c);
  const Compiled compiled = builder.initial("a").build();
  if (!compiled.machine) return must(!compiled.findings.empty(), "what is refused says why");
  play(*compiled.machine, Source(bytes));
}

// Beside the demo's machines, which its actors may be.
void scene(Bytes bytes) {
  const std::string path = demo_folder() + "/dusk.scene.yaml";
  const LoadedScene loaded = load_scene(path, {path, std::string(text_of(bytes))});
  must(loaded.scene.has_value() || has_errors(loaded.findings), "what is refused says why");
}

namespace {

// The text after an edit loads, or says why not.
void edited(const Result<std::string>& text) {
  if (!text) return must(!text.error().text().empty(), "what is refused says why");
  const Loaded loaded = load_character_text(*text, "fuzz/edited.yaml");
  must(loaded.machine.has_value() || has_errors(loaded.findings), "what is refused says why");
}

}  // namespace

// An edit, then the text it is made to.
void mark_edits(Bytes bytes) {
  Source from(bytes);
  MarkEdit edit;
  edit.kind = static_cast<MarkEdit::Kind>(from.pick(static_cast<std::size_t>(MarkEdit::Kind::set_fields) + 1));
  edit.index = from.take<std::uint8_t>();
  std::string_view text = text_of(bytes.subspan(std::min<std::size_t>(3, bytes.size())));
  for (std::string* word : {&edit.clip, &edit.place, &edit.name, &edit.to}) *word = take_line(text);
  edited(edit_marks(text, edit));
}

void clip_edits(Bytes bytes) {
  Source from(bytes);
  const auto kind = from.take<std::uint8_t>();
  const auto frame = from.take<std::uint8_t>();
  std::string_view text = text_of(bytes.subspan(std::min<std::size_t>(2, bytes.size())));
  const std::string name = take_line(text), to = take_line(text);
  if (kind % 5 < 3) return edited(edit_clip(text, {static_cast<ClipEdit::Kind>(kind % 5), name, frame, to}));
  const double x = from.take<float>(), y = from.take<float>();
  ShapeEdit edit{kind % 5 == 3 ? ShapeEdit::Of::reach : ShapeEdit::Of::zone, name, RectShape{x, y, y, x}};
  if (frame % 3 == 1) edit.shape = CircleShape{x, y, x};
  if (frame % 3 == 2) edit.shape = ConeShape{x, y, y, x};
  edited(edit_shape(text, edit));
}

}  // namespace mobrin::fuzz
