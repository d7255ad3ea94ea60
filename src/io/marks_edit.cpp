// Editing marks: which part of the tree changes, and how.
#include "mobrin/io/marks_edit.hpp"

#include <algorithm>
#include <span>

#include "reader.hpp"
#include "yaml_edit.hpp"

namespace mobrin {
namespace {

using namespace io;
using Kind = MarkEdit::Kind;

// Places are equal where they mean the same: `3` and `03`, `0.5s` and `500ms`.
bool same_place(std::string_view a, std::string_view b) {
  if (a == b) return true;
  if (const auto first = read_duration(a)) return first == read_duration(b);
  if (a.ends_with(".end") != b.ends_with(".end")) return false;
  const auto number = [](std::string_view text) {
    if (text.ends_with(".end")) text.remove_suffix(4);
    return parse_whole(text);
  };
  return number(a) && number(a) == number(b);
}

// The cues of one place: a name, a map of names to fields, or a list of these.
std::string cue_name(const YamlNode& item) {
  return item.kind == YamlNode::Kind::map && item.entries.size() == 1 ? item.entries.front().key.text : item.text;
}

class Editor {
 public:
  Editor(const MarkEdit& edit) : edit_(edit) {}

  Result<std::string> run(std::string_view text) {
    if (edit_.clip.empty()) return Error{"an edit says whose marks it changes", "", "Name the clip."};
    std::string now(text);
    if (edit_.kind == Kind::move_cue) {
      MarkEdit away = edit_, back = edit_;
      away.kind = Kind::remove_cue;
      back.kind = Kind::add_cue;
      back.place = edit_.to;
      Editor remover(away);
      auto removed = remover.run(now);
      if (!removed) return removed;
      Editor adder(back);
      adder.leaf_ = remover.leaf_;
      return adder.run(*removed);
    }
    const std::string mark = now.starts_with("\xEF\xBB\xBF") ? now.substr(0, 3) : "";  // of byte order
    now.erase(0, mark.size());
    YamlNode before, after;
    YamlProblem problem;
    if (!parse_yaml(now, before, problem)) return Error{problem.message, ""};
    if (now.find_first_not_of(" \t\r\n") == std::string::npos) {
      now = "mobrin: 1\n";
      if (!parse_yaml(now, before, problem)) return Error{problem.message, ""};
    }
    if (before.kind != YamlNode::Kind::map) return Error{"the file is no map", ""};
    YamlText out(std::move(now), before);
    const Error by_hand{
        "the marks of \"" + edit_.clip + "\" are written in a way that cannot be edited here; edit the file by hand",
        ""};
    if (!well_formed(before)) return by_hand;
    if (Outcome done = apply(before, out); !done) return done.error();
    // Read again: nothing else may differ.
    if (!parse_yaml(out.text(), after, problem) || others(before) != others(after) || leaves(before) == leaves(after))
      return by_hand;
    return mark + out.text();
  }

 private:
  [[nodiscard]] std::string section() const {
    switch (edit_.kind) {
      case Kind::set_pivot:
        return "pivot";
      case Kind::set_offset:
        return edit_.place.empty() ? "offset" : "offsets";
      case Kind::set_span:
      case Kind::remove_span:
        return "spans";
      case Kind::set_window:
      case Kind::remove_window:
        return "windows";
      case Kind::set_airborne:
        return "airborne";
      case Kind::add_box:
      case Kind::remove_box:
      case Kind::set_box:
      case Kind::split_box:
      case Kind::drop_box:
        return "boxes";
      case Kind::set_fields:
        return edit_.place.empty() ? "spans" : "cues";
      default:
        return "cues";
    }
  }
  // The key below the section; empty where the section itself is the value.
  [[nodiscard]] std::string key() const {
    if (section() == "cues" || section() == "offsets") return edit_.place;
    return section() == "spans" || section() == "windows" ? edit_.name : "";
  }

  // Maps all the way down, or nothing.
  [[nodiscard]] bool well_formed(const YamlNode& root) const {
    const YamlNode* node = &root;
    const std::string names[] = {"marks", edit_.clip, section()};
    for (const std::string& name : std::span(names).first(key().empty() ? 2 : 3)) {
      const YamlEntry* entry = entry_of(node, name);
      if (entry == nullptr) return true;
      node = &entry->value;
      if (node->kind != YamlNode::Kind::map && node->kind != YamlNode::Kind::null) return false;
      if (node->kind == YamlNode::Kind::map && !node->flow && node->entries.empty()) return false;
    }
    return true;
  }

  // What must stay: all but the edited section.
  [[nodiscard]] std::vector<std::pair<std::string, std::string>> others(const YamlNode& root) const {
    auto all = leaves(root);
    const std::string inside = "/marks/" + edit_.clip + "/" + section();
    std::erase_if(all, [&](const auto& leaf) {
      const std::string& path = leaf.first;
      const bool above = path == "/marks" || path == "/marks/" + edit_.clip;  // was empty, or is now
      if (above) return true;
      if (!path.starts_with(inside) || (path.size() > inside.size() && path[inside.size()] != '/')) return false;
      if (path.size() == inside.size() || key().empty()) return true;
      const std::string below = path.substr(inside.size() + 1);
      const std::string place = below.substr(0, below.find('/'));
      return section() == "cues" ? same_place(place, edit_.place) : place == key();
    });
    return all;
  }

  Outcome apply(const YamlNode& root, YamlText& out) {
    // Down to the section, making what is missing.
    const std::string value = leaf_.empty() ? (edit_.kind == Kind::add_cue ? out.word(edit_.name) : edit_.to) : leaf_;
    const bool removes =
        edit_.kind == Kind::remove_cue || edit_.kind == Kind::remove_span || edit_.kind == Kind::remove_window;
    const bool adds_box = edit_.kind == Kind::add_box;
    std::string inner = adds_box        ? "[" + value + "]"
                        : key().empty() ? value
                                        : "{" + out.word(key()) + ": " + value + "}";
    const YamlEntry* marks = entry_of(&root, "marks");
    const YamlEntry* clip = marks == nullptr ? nullptr : entry_of(&marks->value, edit_.clip);
    const YamlEntry* part = clip == nullptr ? nullptr : entry_of(&clip->value, section());
    if (edit_.kind == Kind::remove_box)
      return part == nullptr ? Outcome(nothing()) : remove_box(clip->value, *part, out);
    if (edit_.kind == Kind::set_box || edit_.kind == Kind::split_box || edit_.kind == Kind::drop_box)
      return part == nullptr ? Outcome(no_box()) : change_box(clip->value, *part, out);
    if (edit_.kind == Kind::set_fields && part == nullptr) return nothing();
    if (edit_.kind == Kind::set_fields && section() == "cues") return set_fields(part->value, out);
    if (removes && part == nullptr) return nothing();
    const auto framed = [&](const std::string& name, const std::string& text) {
      return "{" + out.word(name) + ": " + text + "}";
    };
    if (marks == nullptr)
      return out.add_entry(root, nullptr, out.word("marks"),
                           root.flow ? framed(edit_.clip, framed(section(), inner))
                                     : "\n  " + edit_.clip + ":\n    " + section() + ": " + inner),
             Done{};
    if (marks->value.kind == YamlNode::Kind::null && !root.flow)
      return out.replace(*marks, "\n  " + edit_.clip + ":\n    " + section() + ": " + inner), Done{};
    if (clip == nullptr) {
      const bool block = !marks->value.flow && marks->value.kind == YamlNode::Kind::map;
      const std::string indent =
          block ? std::string(marks->value.entries.front().key.column - 1 + 2, ' ') : std::string();
      return out.add_entry(marks->value, marks, out.word(edit_.clip),
                           block ? "\n" + indent + section() + ": " + inner : framed(section(), inner)),
             Done{};
    }
    if (part == nullptr) return out.add_entry(clip->value, clip, out.word(section()), inner), Done{};
    if (adds_box && part->value.kind != YamlNode::Kind::null) return out.add_item(part->value, value), Done{};
    if (key().empty()) return out.replace(*part, inner), Done{};
    // The entry below the section.
    const auto& entries = part->value.entries;
    const auto found = std::find_if(entries.begin(), entries.end(), [&](const YamlEntry& entry) {
      return section() == "cues" ? same_place(entry.key.text, edit_.place) : entry.key.text == key();
    });
    const bool there = found != entries.end();
    if (!there && (removes || edit_.kind == Kind::set_fields)) return nothing();
    if (!there) return out.add_entry(part->value, part, out.word(key()), value), Done{};
    const auto index = static_cast<std::size_t>(found - entries.begin());
    if (edit_.kind == Kind::add_cue) return add_cue(*found, value, out);
    if (edit_.kind == Kind::remove_cue) return remove_cue(part->value, index, out);
    if (removes)
      out.remove_entry(part->value, index);
    else if (section() == "spans")
      change_span(*found, out);
    else
      out.replace(*found, value);
    return Done{};
  }

  // A span lasts over other frames and keeps its fields, or the other way round.
  void change_span(const YamlEntry& span, YamlText& out) const {
    const YamlEntry* frames = span.value.kind == YamlNode::Kind::map ? entry_of(&span.value, "frames") : nullptr;
    if (edit_.kind == Kind::set_span) return out.replace(frames != nullptr ? *frames : span, edit_.to);
    const std::string lasts = out.written(frames != nullptr ? frames->value : span.value);
    out.replace(span, edit_.to == "{}" ? lasts : "{frames: " + lasts + ", " + edit_.to.substr(1));
  }

  Outcome add_cue(const YamlEntry& place, const std::string& value, YamlText& out) const {
    const YamlNode& there = place.value;
    const auto taken = [&] {
      return Error{"the cue \"" + edit_.name + "\" is at " + edit_.place + " of \"" + edit_.clip + "\" already", ""};
    };
    if (there.kind == YamlNode::Kind::map && there.entries.size() != 1) {
      if (entry_of(&there, edit_.name) != nullptr) return taken();
      if (!leaf_.empty() && leaf_.front() == '{') return Error{"move it by hand: there are several cues already", ""};
      out.add_entry(there, &place, out.word(edit_.name), "{}");
      return Done{};
    }
    if (there.kind == YamlNode::Kind::null) return out.replace(place, value), Done{};
    for (const YamlNode& item : there.kind == YamlNode::Kind::list ? there.items : std::vector<YamlNode>{there})
      if (cue_name(item) == edit_.name) return taken();
    out.add_item(there, value);
    return Done{};
  }

  Outcome remove_cue(const YamlNode& places, std::size_t index, YamlText& out) {
    const YamlNode& there = places.entries[index].value;
    const bool several = there.kind == YamlNode::Kind::map && there.entries.size() > 1;
    if (several) {
      for (std::size_t i = 0; i < there.entries.size(); ++i) {
        if (there.entries[i].key.text != edit_.name) continue;
        leaf_ = "{" + out.written(there.entries[i].key) + ": " + out.written(there.entries[i].value) + "}";
        out.remove_entry(there, i);
        return Done{};
      }
      return nothing();
    }
    const bool list = there.kind == YamlNode::Kind::list;
    for (std::size_t i = 0; i < (list ? there.items.size() : 1); ++i) {
      const YamlNode& item = list ? there.items[i] : there;
      if (cue_name(item) != edit_.name) continue;
      leaf_ = out.written(item);
      if (item.kind == YamlNode::Kind::map && !item.flow) leaf_ = "{" + leaf_ + "}";
      if (list && there.items.size() > 1)
        out.remove_item(there, i);
      else
        out.remove_entry(places, index);
      return Done{};
    }
    return nothing();
  }

  Outcome remove_box(const YamlNode& marks, const YamlEntry& boxes, YamlText& out) const {
    const bool list = boxes.value.kind == YamlNode::Kind::list;
    for (std::size_t i = 0; i < (list ? boxes.value.items.size() : 1); ++i) {
      const YamlNode& box = list ? boxes.value.items[i] : boxes.value;
      const YamlEntry* name = entry_of(&box, "name");
      const YamlEntry* frames = entry_of(&box, "frames");
      if (name == nullptr || name->value.text != edit_.name) continue;
      if (!edit_.place.empty() && (frames == nullptr || frames->value.text != edit_.place)) continue;
      if (list && boxes.value.items.size() > 1)
        out.remove_item(boxes.value, i);
      else
        out.remove_entry(marks, static_cast<std::size_t>(&boxes - marks.entries.data()));
      return Done{};
    }
    return nothing();
  }

  [[nodiscard]] Error no_box() const {
    return {"\"" + edit_.clip + "\" has no box number " + std::to_string(edit_.index), ""};
  }

  // A box as a map in one line, with one key otherwise, or without it where `words` is empty.
  static std::string box_words(const YamlText& out, const YamlNode& box, const std::string& key,
                               const std::string& words) {
    std::string all;
    bool there = false;
    const auto add = [&](const std::string& name, const std::string& value) {
      all += (all.empty() ? "{" : ", ") + out.word(name) + ": " + value;
    };
    for (const YamlEntry& entry : box.entries) {
      const bool it = entry.key.text == key;
      there = there || it;
      if (!it || !words.empty()) add(entry.key.text, it ? words : out.written(entry.value));
    }
    if (!there && !words.empty()) add(key, words);
    return all + "}";
  }

  Outcome change_box(const YamlNode& marks, const YamlEntry& boxes, YamlText& out) const {
    const bool list = boxes.value.kind == YamlNode::Kind::list;
    if (edit_.index >= (list ? boxes.value.items.size() : 1)) return no_box();
    const YamlNode& box = list ? boxes.value.items[edit_.index] : boxes.value;
    if (box.kind != YamlNode::Kind::map || box.entries.empty()) return no_box();
    if (edit_.kind == Kind::drop_box) {
      if (list && boxes.value.items.size() > 1)
        out.remove_item(boxes.value, edit_.index);
      else
        out.remove_entry(marks, static_cast<std::size_t>(&boxes - marks.entries.data()));
      return Done{};
    }
    const YamlEntry* rect = entry_of(&box, "rect");
    const YamlEntry* shape = rect != nullptr ? rect : entry_of(&box, "circle");
    const auto replace = [&](const std::string& key, const std::string& words) {
      if (const YamlEntry* there = entry_of(&box, key))
        out.replace_nodes({{&there->value, words}});
      else if (shape != nullptr && (key == "rect" || key == "circle"))
        out.replace_nodes({{&shape->key, out.word(key)}, {&shape->value, words}});
      else
        out.add_entry(box, list ? nullptr : &boxes, out.word(key), words);
    };
    if (edit_.kind == Kind::set_box) {
      const YamlEntry* frames = entry_of(&box, "frames");
      if (!edit_.to.empty())
        replace(edit_.name, edit_.to);
      else if (edit_.name == "frames" && frames != nullptr)
        out.remove_entry(box, static_cast<std::size_t>(frames - box.entries.data()));  // all of the clip
      return Done{};
    }
    if (shape == nullptr) return no_box();
    // For some frames another shape: a second box, and the first for the rest.
    std::string second;
    const auto add = [&](const std::string& name, const std::string& value) {
      second += (second.empty() ? "{" : ", ") + out.word(name) + ": " + value;
    };
    for (const YamlEntry& entry : box.entries) {
      if (entry.key.text == "frames") continue;
      if (&entry == shape) add("frames", edit_.place);
      add(entry.key.text, &entry == shape ? edit_.to : out.written(entry.value));
    }
    second += "}";
    const std::string first = box_words(out, box, "frames", edit_.name);
    if (!list) return out.replace(boxes, "[" + first + ", " + second + "]"), Done{};
    std::vector<YamlText::Item> items;
    for (std::size_t i = 0; i < boxes.value.items.size(); ++i) {
      items.push_back({i, i == edit_.index ? first : ""});
      if (i == edit_.index) items.push_back({static_cast<std::size_t>(-1), second});
    }
    out.rebuild_list(boxes, items);
    return Done{};
  }

  // The cue's item becomes its name alone, or a map of it to its fields.
  Outcome set_fields(const YamlNode& places, YamlText& out) const {
    for (const YamlEntry& entry : places.entries) {
      if (!same_place(entry.key.text, edit_.place)) continue;
      const YamlNode& there = entry.value;
      const bool plain = edit_.to == "{}";
      if (there.kind == YamlNode::Kind::map && there.entries.size() > 1) {
        for (const YamlEntry& cue : there.entries)
          if (cue.key.text == edit_.name) return out.replace(cue, edit_.to), Done{};
        return nothing();
      }
      const std::string words = plain ? out.word(edit_.name) : "{" + out.word(edit_.name) + ": " + edit_.to + "}";
      const bool list = there.kind == YamlNode::Kind::list;
      for (std::size_t i = 0; i < (list ? there.items.size() : 1); ++i) {
        const YamlNode& item = list ? there.items[i] : there;
        if (cue_name(item) != edit_.name) continue;
        if (list)
          out.replace_nodes({{&item, words}});
        else
          out.replace(entry, words);
        return Done{};
      }
    }
    return nothing();
  }

  [[nodiscard]] Error nothing() const {
    if (edit_.kind == Kind::remove_box)
      return {"\"" + edit_.clip + "\" has no box \"" + edit_.name + "\"" +
                  (edit_.place.empty() ? "" : " at the frames " + edit_.place),
              ""};
    if (section() == "cues")
      return {"there is no cue \"" + edit_.name + "\" at " + edit_.place + " of \"" + edit_.clip + "\"", ""};
    return {"\"" + edit_.clip + "\" has no " + (section() == "spans" ? "span" : "window") + " \"" + edit_.name + "\"",
            ""};
  }

  const MarkEdit edit_;
  std::string leaf_;  // of a moved cue: its words where it was
};

}  // namespace

namespace {

// A value in one line, in the words of its file.
std::string one_line(const YamlText& text, const YamlNode& node) {
  const bool map = node.kind == YamlNode::Kind::map;
  if (!map && node.kind != YamlNode::Kind::list) return text.written(node);
  std::string out(1, map ? '{' : '[');
  for (const YamlEntry& entry : node.entries)
    out += (out.size() > 1 ? ", " : "") + text.written(entry.key) + ": " + one_line(text, entry.value);
  for (const YamlNode& item : node.items) out += (out.size() > 1 ? ", " : "") + one_line(text, item);
  return out + (map ? '}' : ']');
}

}  // namespace

Result<std::string> copy_marks(std::string_view from, std::string_view into, const std::string& clip) {
  YamlNode source, target, after;
  YamlProblem problem;
  if (!parse_yaml(from, source, problem) || !parse_yaml(into, target, problem)) return Error{problem.message, ""};
  const YamlEntry* all = entry_of(source, "marks");
  const YamlEntry* marks = all == nullptr ? nullptr : entry_of(all->value, clip);
  if (marks == nullptr || marks->value.kind != YamlNode::Kind::map) return Error{"\"" + clip + "\" has no marks", ""};
  const YamlEntry* there = entry_of(target, "marks");
  if (there != nullptr && entry_of(there->value, clip) != nullptr)
    return Error{"\"" + clip + "\" has marks of its own already", ""};
  const YamlText words{std::string(from), source};
  YamlText out{std::string(into), target};
  const bool block = there == nullptr ? !target.flow : !there->value.flow && there->value.kind == YamlNode::Kind::map;
  std::string value;
  if (block) {
    const std::size_t column = there == nullptr ? 3 : there->value.entries.front().key.column;
    for (const YamlEntry& entry : marks->value.entries)
      value += "\n" + std::string(column + 1, ' ') + words.written(entry.key) + ": " + one_line(words, entry.value);
  } else {
    value = one_line(words, marks->value);
  }
  if (there == nullptr)
    out.add_entry(target, nullptr, out.word("marks"),
                  block ? "\n  " + clip + ":" + value : "{" + out.word(clip) + ": " + value + "}");
  else if (there->value.kind == YamlNode::Kind::null)
    out.replace(*there, "{" + out.word(clip) + ": " + one_line(words, marks->value) + "}");
  else
    out.add_entry(there->value, there, out.word(clip), value);
  // Read again: what was there is there, and the marks beside it.
  const auto leaves_of = [](const YamlNode& root, const std::string& below) {
    auto found = leaves(root);
    std::erase_if(found, [&](const auto& leaf) { return !leaf.first.starts_with(below); });
    return found;
  };
  if (!parse_yaml(out.text(), after, problem) ||
      leaves_of(after, "/marks/" + clip + "/") != leaves_of(source, "/marks/" + clip + "/"))
    return Error{"these marks are written in a way that cannot be copied here; copy them by hand", ""};
  return out.text();
}

std::optional<MarkEdit::Kind> mark_edit_kind(std::string_view name) {
  constexpr std::pair<std::string_view, Kind> kKinds[] = {
      {"add_cue", Kind::add_cue},           {"remove_cue", Kind::remove_cue}, {"move_cue", Kind::move_cue},
      {"set_pivot", Kind::set_pivot},       {"set_offset", Kind::set_offset}, {"set_span", Kind::set_span},
      {"remove_span", Kind::remove_span},   {"set_window", Kind::set_window}, {"remove_window", Kind::remove_window},
      {"set_airborne", Kind::set_airborne}, {"remove_box", Kind::remove_box}, {"add_box", Kind::add_box},
      {"set_box", Kind::set_box},           {"split_box", Kind::split_box},   {"drop_box", Kind::drop_box},
      {"set_fields", Kind::set_fields}};
  for (const auto& [known, kind] : kKinds)
    if (known == name) return kind;
  return std::nullopt;
}

std::string file_of_marks(const Loaded& loaded, const std::string& file, const std::string& clip) {
  if (loaded.machine)
    for (const ClipInfo& info : loaded.machine->clips())
      if (info.def.name.text == clip && !info.marks.clip.text.empty()) return loaded.files[info.marks.clip.place.file];
  for (const std::string& used : loaded.files)
    if (used.find(".marks.") != std::string::npos) return used;
  return file;
}

Result<std::string> edit_marks(std::string_view text, const MarkEdit& edit) { return Editor(edit).run(text); }

}  // namespace mobrin
