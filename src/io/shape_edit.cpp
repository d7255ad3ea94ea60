// Editing shapes: one entry of `reaches:` or `zones:`.
#include "mobrin/io/shape_edit.hpp"

#include <algorithm>

#include "mobrin/core/names.hpp"
#include "reader.hpp"
#include "yaml_edit.hpp"

namespace mobrin {
namespace {

using namespace io;
using detail::number_text;

std::string list_of(std::initializer_list<double> numbers) {
  std::string out;
  for (const double number : numbers) out += (out.empty() ? "[" : ", ") + number_text(number);
  return out + "]";
}

}  // namespace

Result<std::string> edit_shape(std::string_view text, const ShapeEdit& edit) {
  std::string now(text);
  const std::string mark = now.starts_with("\xEF\xBB\xBF") ? now.substr(0, 3) : "";  // of byte order
  now.erase(0, mark.size());
  const std::string list = edit.of == ShapeEdit::Of::reach ? "reaches" : "zones";
  const std::string what = (edit.of == ShapeEdit::Of::reach ? "reach \"" : "zone \"") + edit.name + "\"";
  const auto* rect = std::get_if<RectShape>(&edit.shape);
  const auto* circle = std::get_if<CircleShape>(&edit.shape);
  const std::string key = rect != nullptr ? "rect" : circle != nullptr ? "circle" : "cone";
  const Error by_hand{"the " + what + " is written in a way that cannot be edited here; edit the file by hand", ""};
  YamlNode before, after;
  YamlProblem problem;
  if (!parse_yaml(now, before, problem)) return Error{problem.message, ""};
  const auto shape_in = [&](const YamlNode& root) -> const YamlEntry* {
    const YamlEntry* all = entry_of(root, list);
    const YamlEntry* one = all == nullptr ? nullptr : entry_of(all->value, edit.name);
    return one == nullptr ? nullptr : entry_of(one->value, key);
  };
  const YamlEntry* all = entry_of(before, list);
  if (all == nullptr || entry_of(all->value, edit.name) == nullptr) return Error{"this file has no " + what, ""};
  const YamlEntry* shape = shape_in(before);
  if (shape == nullptr) return Error{"the " + what + " has no `" + key + ":`", ""};
  YamlText out(now, before);
  if (rect != nullptr) {
    out.replace(*shape, list_of({rect->left, rect->bottom, rect->width, rect->height}));
  } else if (circle != nullptr) {
    out.replace(*shape, list_of({circle->x, circle->y, circle->radius}));
  } else {
    const auto& cone = std::get<ConeShape>(edit.shape);
    const YamlEntry *length = entry_of(shape->value, "length"), *angle = entry_of(shape->value, "angle"),
                    *tip = entry_of(shape->value, "tip");
    if (length == nullptr || angle == nullptr) return by_hand;
    std::vector<std::pair<const YamlNode*, std::string>> nodes = {{&length->value, number_text(cone.length)},
                                                                  {&angle->value, number_text(cone.angle)}};
    if (tip != nullptr) nodes.emplace_back(&tip->value, list_of({cone.x, cone.y}));
    out.replace_nodes(std::move(nodes));
    if (tip == nullptr && (cone.x != 0 || cone.y != 0)) {
      YamlNode between;
      if (!parse_yaml(out.text(), between, problem) || shape_in(between) == nullptr) return by_hand;
      YamlText next(out.text(), between);
      const YamlEntry* there = shape_in(between);
      next.add_entry(there->value, there, next.word("tip"), list_of({cone.x, cone.y}));
      out = std::move(next);
    }
  }
  // Read again: nothing else may differ.
  const auto others = [&](const YamlNode& root) {
    auto leaf = leaves(root);
    const std::string inside = "/" + list + "/" + edit.name + "/" + key;
    std::erase_if(leaf, [&](const auto& each) { return each.first.starts_with(inside + "/") || each.first == inside; });
    return leaf;
  };
  if (!parse_yaml(out.text(), after, problem) || others(before) != others(after)) return by_hand;
  return mark + out.text();
}

std::string file_of_shape(const Loaded& loaded, const std::string& file, const ShapeEdit& edit) {
  const auto file_of = [&](const Text& name) {
    return name.text == edit.name && name.place.file < loaded.files.size() ? loaded.files[name.place.file] : "";
  };
  if (!loaded.machine) return file;
  if (edit.of == ShapeEdit::Of::reach) {
    for (const ReachDef& reach : loaded.machine->reaches())
      if (std::string found = file_of(reach.name); !found.empty()) return found;
  } else {
    for (const ZoneInfo& zone : loaded.machine->zones())
      if (std::string found = file_of(zone.def.name); !found.empty()) return found;
  }
  return file;
}

}  // namespace mobrin
