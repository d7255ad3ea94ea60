// Loading packed sheets: pictures by name on one image, in the file itself or described by another.
#include <algorithm>
#include <filesystem>

#include "loader.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/import.hpp"

namespace mobrin::io {
namespace {

constexpr std::int64_t kMostPixelsWide = 1'000'000;
// Of a picture before it was trimmed: it is put together again for `mobrin check`.
constexpr std::int64_t kMostWholePixels = std::int64_t{16} << 20;

bool names_description(const std::string& text) {
  return text.ends_with(".json") || text.ends_with(".yaml") || text.ends_with(".yml");
}

}  // namespace

void Loader::read_sheets(const YamlNode& node) {
  reader.each_entry(node, "`sheets:`", [&](const YamlNode& key, const YamlNode& value) {
    Sheet sheet;
    read_sheet(key, reader.fields(value, Section::sheet), sheet);
    if (!sheets_.emplace(key.text, std::move(sheet)).second)
      reader.fail(FindingCode::duplicate_name, key, "there is a sheet \"" + key.text + "\" already",
                  "Give it another name.");
  });
}

void Loader::read_sheet(const YamlNode& named_by, const Fields& fields, Sheet& sheet) {
  if (const YamlNode* image = fields.get("image"))
    if (const auto path = reader.name(*image, "`image:`")) sheet.image = art_path(*path);
  if (const YamlNode* rects = fields.get("rects"))
    reader.each_entry(*rects, "`rects:`", [&](const YamlNode& name, const YamlNode& rect) {
      if (auto packed = read_packed(name, rect)) sheet.pictures.emplace(name.text, *packed);
    });
  if (!fields.foreign && (!fields.has("image") || !fields.has("rects")))
    reader.fail(FindingCode::missing_key, named_by,
                "the sheet \"" + named_by.text + "\" lacks " + (fields.has("image") ? "`rects:`" : "`image:`"),
                "It needs an image and its rectangles.");
}

// `[left, top, width, height]`; trimmed, `[left, top, width, height, cut off left, cut off top, whole width, height]`.
std::optional<Loader::Packed> Loader::read_packed(const YamlNode& name, const YamlNode& rect) {
  Packed out;
  const std::string what = "the rectangle \"" + name.text + "\"";
  std::int32_t* const parts[] = {&out.rect.x,  &out.rect.y,  &out.rect.width,  &out.rect.height,
                                 &out.whole.x, &out.whole.y, &out.whole.width, &out.whole.height};
  const std::size_t count = rect.items.size();
  if (rect.kind != YamlNode::Kind::list || (count != 4 && count != 8)) {
    reader.mismatch(rect, what,
                    "four numbers: [left, top, width, height]; of a trimmed picture eight: also columns cut off at "
                    "its left, rows at its top, its whole width and height");
    return std::nullopt;
  }
  for (std::size_t i = 0; i < count; ++i) {
    const auto number = reader.whole(rect.items[i], what, i % 4 < 2 ? 0 : 1, kMostPixelsWide);
    if (!number) return std::nullopt;
    *parts[i] = static_cast<std::int32_t>(*number);
  }
  if (count == 4) return out;
  if (out.whole.x + out.rect.width > out.whole.width || out.whole.y + out.rect.height > out.whole.height) {
    reader.fail(FindingCode::bad_value, rect,
                what + " reaches past the whole picture of " + std::to_string(out.whole.width) + " x " +
                    std::to_string(out.whole.height) + " pixels that it was trimmed from",
                "The last four numbers are: columns cut off at its left, rows at its top, whole width, whole height.");
    return std::nullopt;
  }
  if (std::int64_t{out.whole.width} * out.whole.height > kMostWholePixels) {
    reader.fail(FindingCode::too_large, rect, what + " was trimmed from more than 16 megapixels",
                "Check its whole width and height.");
    return std::nullopt;
  }
  return out;
}

const Loader::Sheet* Loader::sheet_named(const YamlNode& node) {
  if (const auto found = sheets_.find(node.text); found != sheets_.end()) return &found->second;
  return node.kind == YamlNode::Kind::scalar && names_description(node.text) ? described_sheet(node) : nullptr;
}

const Loader::Sheet* Loader::described_sheet(const YamlNode& node) {
  const std::size_t before = findings.size();
  const auto name = reader.name(node, "`sheet:`");
  const std::string path = name ? join(file_folder_, name->text) : "";
  const auto [found, fresh] = described_.try_emplace(path);
  Sheet& sheet = found->second;
  if (!fresh) return &sheet;
  if (trusts_packed_names) return &sheet;
  if (definition.files.size() >= kMaxFiles)
    reader.fail(FindingCode::too_large, node, "more than 256 files are used", "Join some of them.");
  if (name && stays(file_folder_, *name) && definition.files.size() < kMaxFiles) {
    const std::uint16_t file = reader.file();
    const std::string folder = file_folder_;
    if (auto root = reader.parse_file(path, *name); root && check_version(reader, *root, "a packed sheet")) {
      enter_folder(folder_of(path));
      const Fields fields = reader.fields(*root, Section::packed_sheet);
      YamlNode whole = *root;
      whole.text = std::filesystem::path(path).filename().generic_string();
      read_sheet(whole, fields, sheet);
    }
    reader.set_file(file);
    enter_folder(folder);
  }
  sheet.broken = errors_since(before);
  return &sheet;
}

std::optional<PackedSheet> Loader::read_packed_sheet(const std::string& path) {
  main_folder = folder_of(path);
  roots_.push_back(main_folder);
  enter_folder(main_folder);
  YamlNode named;
  named.kind = YamlNode::Kind::scalar;
  named.text = std::filesystem::path(path).filename().generic_string();
  const Sheet* sheet = described_sheet(named);
  if (sheet->broken) return std::nullopt;
  PackedSheet out;
  out.image = join(main_folder, sheet->image);
  for (const auto& [name, packed] : sheet->pictures) out.pictures.push_back({name, packed.rect, packed.whole});
  return out;
}

std::optional<PackedSheet> read_packed_sheet(const std::string& path, std::vector<Finding>& findings) {
  Loader loader;
  auto out = loader.read_packed_sheet(path);
  findings.insert(findings.end(), loader.findings.begin(), loader.findings.end());
  return out;
}

}  // namespace mobrin::io

namespace mobrin {

bool is_packed_sheet(const std::string& path) {
  if (!io::names_description(path)) return false;
  const auto text = read_file(path);
  io::YamlNode root;
  io::YamlProblem problem;
  if (!text || !io::parse_yaml(*text, root, problem)) return false;
  const auto has = [&](std::string_view key) {
    return std::any_of(root.entries.begin(), root.entries.end(),
                       [&](const io::YamlEntry& e) { return e.key.text == key; });
  };
  return has("rects") && has("image");
}

}  // namespace mobrin
