// Misplaced lines: which section they are meant for is told from their keys.
#include <algorithm>
#include <array>
#include <iterator>
#include <utility>

#include "mend.hpp"
#include "mobrin/core/names.hpp"

namespace mobrin::io {
namespace {

using Kind = YamlNode::Kind;

constexpr Section kCue = Section::count;  // none of the table's: the fields of cues are their own

// What a key holds: entries by name, or a list of them.
struct Holder {
  std::string_view type;  // as in the table of keys
  Section section;        // of its entries
  bool list = false;
};
constexpr Holder kHolders[] = {{"inputs", Section::input},
                               {"cues", kCue},
                               {"clips", Section::clip},
                               {"sheets", Section::sheet},
                               {"marks_by_clip", Section::marks},
                               {"reaches", Section::reach},
                               {"zones", Section::zone},
                               {"looks", Section::look},
                               {"claims", Section::claim},
                               {"states", Section::state},
                               {"regions", Section::region},
                               {"actors", Section::actor},
                               {"scene_spawns", Section::scene_spawn},
                               {"tape_steps", Section::tape_step, true},
                               {"scene_moves", Section::scene_move, true},
                               {"hit_rules", Section::hit_rule, true}};

// The keys of a section that hold more.
struct HolderKey {
  std::string_view key;
  const Holder* holder;
};
const std::vector<HolderKey>& holders_in(Section section) {
  static const auto all = [] {
    std::array<std::vector<HolderKey>, static_cast<std::size_t>(Section::count)> out;
    for (const KeyRow& row : all_keys())
      for (const Holder& each : kHolders)
        if (each.type == row.type) out[static_cast<std::size_t>(row.section)].push_back({row.key, &each});
    return out;
  }();
  return all[static_cast<std::size_t>(section)];
}

std::string one_of(const Holder& holder) {
  return holder.section == kCue ? "a cue" : with_article(name_of(holder.section));
}

bool knows(Section section, std::string_view key) {
  const auto& keys = keys_of(section);
  return std::find(keys.begin(), keys.end(), key) != keys.end();
}
// Whether it is one of its keys, or may be meant for one.
bool may_know(Section section, const std::string& key) {
  return knows(section, key) || !meant_key(section, key).empty() || !nearest_name(key, keys_of(section)).empty();
}

bool is_plain(const YamlNode& node) { return node.kind == Kind::scalar || node.kind == Kind::list; }

// Whether it is plainly written like an entry of the holder.
bool fits(const Holder& holder, const YamlNode& value) {
  if (holder.section == Section::input && value.kind == Kind::scalar && !value.quoted)
    return value.text == "pulse" || value.text == "true" || value.text == "false";
  if (value.kind != Kind::map || value.entries.empty()) return false;
  if (holder.section == kCue)
    return entry_of(value, "kind") != nullptr &&
           std::all_of(value.entries.begin(), value.entries.end(),
                       [](const YamlEntry& each) { return is_plain(each.value); });
  return std::all_of(value.entries.begin(), value.entries.end(),
                     [&](const YamlEntry& each) { return knows(holder.section, each.key.text); });
}
// Whether it cannot be one.
bool is_odd(const Holder& holder, const YamlNode& value) {
  if (value.kind == Kind::null)
    return holder.section != Section::state && holder.section != kCue && holder.section != Section::marks;
  if (holder.section == kCue)
    return value.kind == Kind::list || std::any_of(value.entries.begin(), value.entries.end(),
                                                   [](const YamlEntry& each) { return !is_plain(each.value); });
  if (value.kind == Kind::scalar) return holder.section != Section::input;
  if (holder.section == Section::region && entry_of(value, "states") != nullptr) return false;
  return value.kind == Kind::list ||
         std::any_of(value.entries.begin(), value.entries.end(),
                     [&](const YamlEntry& each) { return !may_know(holder.section, each.key.text); });
}

// Whether it is none either with what is wrong in it: it has nothing of one.
bool is_other(const Holder& holder, const YamlNode& value) {
  return is_odd(holder, value) && std::none_of(value.entries.begin(), value.entries.end(), [&](const YamlEntry& each) {
           return holder.section != kCue && knows(holder.section, each.key.text);
         });
}

class Placing {
 public:
  explicit Placing(Reader& reader) : reader_(reader) {}

  // States that stand right in what they are states of, there and in all that is inside of it.
  void gather(YamlNode& map, Section of) {
    if (map.kind != Kind::map) return;
    gather_states(map, of);
    for (const auto& [key, inside] : {std::pair("states", Section::state), std::pair("regions", Section::region)})
      if (YamlEntry* const entry = find(map, key))
        for (YamlEntry& each : entry->value.entries)
          if (!knows(inside, each.key.text)) gather(each.value, inside);  // else it may be in the wrong place itself
  }

  // Nothing is moved in what is written with { }: there indentation means nothing.
  void place(YamlNode& map, Section of) {
    const std::vector<HolderKey>& holders = holders_in(of);
    if (map.kind != Kind::map || holders.empty()) return;
    for (const HolderKey& each : holders)
      if (YamlEntry* const entry = find(map, each.key)) leave_out_nameless(map, entry->value, each);
    if (map.flow) return;
    for (const HolderKey& each : holders) {
      YamlEntry* const entry = find(map, each.key);
      if (entry == nullptr || entry->value.flow) continue;
      if (each.holder->list) {
        move_items(map, holders, each);
      } else {
        move_keys(entry->value, each);
        move_entries(map, of, holders, each);
      }
    }
    move_strays(map, of, holders);
    for (const HolderKey& each : holders) {
      YamlEntry* const entry = find(map, each.key);
      if (entry == nullptr) continue;
      for (YamlNode& item : entry->value.items) place(item, each.holder->section);
      if (each.holder->section == kCue) continue;
      move_out(entry->value, *each.holder);
      for (YamlEntry& inside : entry->value.entries) place(inside.value, each.holder->section);
    }
  }

 private:
  static YamlEntry* find(YamlNode& map, std::string_view key) {
    return const_cast<YamlEntry*>(entry_of(std::as_const(map), key));
  }
  static bool lacks(const YamlNode& map, std::string_view key) {
    const YamlEntry* const there = entry_of(map, key);
    return there == nullptr || there->value.kind == Kind::null;
  }
  void gather_states(YamlNode& map, Section of) {
    if (!lacks(map, "states") || !lacks(map, "regions")) return;
    const YamlEntry* const initial = entry_of(map, "initial");
    const auto is_state = [&](const YamlEntry& each) {
      const YamlNode& value = each.value;
      return !knows(of, each.key.text) &&
             (value.kind == Kind::null ||
              (value.kind == Kind::map &&
               (value.entries.empty() ||
                std::any_of(value.entries.begin(), value.entries.end(),
                            [](const YamlEntry& key) { return knows(Section::state, key.key.text); }))));
    };
    const bool there = std::any_of(map.entries.begin(), map.entries.end(), [&](const YamlEntry& each) {
      return is_state(each) && ((initial != nullptr && initial->value.text == each.key.text) ||
                                (of == Section::region && each.value.kind == Kind::map));
    });
    if (!there) return;
    const auto first = std::stable_partition(map.entries.begin(), map.entries.end(),
                                             [&](const YamlEntry& each) { return !is_state(each); });
    std::vector<YamlEntry> states = cut(map.entries, static_cast<std::size_t>(first - map.entries.begin()));
    tell(states.front().key, "there is no `states:` above the state \"" + states.front().key.text + "\"",
         map.flow ? "Put the states into `states: {...}`."
                  : "Write `states:` there, and move the states under it to the right.");
    const YamlNode where = states.front().key;
    made(map, where, "states", Kind::map).entries = std::move(states);
  }
  // What the map has under a key that had nothing yet, as begun where `where` stands.
  static YamlNode& made(YamlNode& map, const YamlNode& where, std::string_view key, Kind kind) {
    YamlEntry* entry = find(map, key);
    if (entry == nullptr) {
      entry = &map.entries.emplace_back();
      entry->key.kind = Kind::scalar;
      entry->key.text = key;
      entry->key.line = where.line, entry->key.column = where.column;
    }
    begin(entry->value, where, kind);
    return entry->value;
  }
  static void begin(YamlNode& value, const YamlNode& where, Kind kind) {
    value.kind = kind;
    value.line = where.line, value.column = where.column;
  }
  // What lies from `first` on.
  template <class T>
  static std::vector<T> cut(std::vector<T>& from, std::size_t first) {
    const auto begin = from.begin() + static_cast<std::ptrdiff_t>(first);
    std::vector<T> out(std::make_move_iterator(begin), std::make_move_iterator(from.end()));
    from.erase(begin, from.end());
    return out;
  }
  // One of the holders that the map has not, in whose way the value is written.
  static const HolderKey* missing(const YamlNode& map, const std::vector<HolderKey>& holders, bool list,
                                  const YamlNode& value) {
    const bool split = !lacks(map, "regions");  // then there are no states beside them
    for (const HolderKey& each : holders)
      if (each.holder->list == list && lacks(map, each.key) && fits(*each.holder, value) &&
          !(split && each.holder->section == Section::state))
        return &each;
    return nullptr;
  }

  void tell(const YamlNode& where, std::string message, std::string remedy) {
    reader_.fail(FindingCode::unknown_key, where, std::move(message), std::move(remedy));
  }
  void tell_like(const YamlNode& where, const std::string& what, const HolderKey& in, const HolderKey& to) {
    tell(where, what + " stands under `" + std::string(in.key) + ":` and is written like " + one_of(*to.holder),
         "Is the line `" + std::string(to.key) + ":` missing above it?");
  }

  // Items of a list that are written like those of another that is not there, from the first on.
  void move_items(YamlNode& map, const std::vector<HolderKey>& holders, const HolderKey& in) {
    YamlNode& list = find(map, in.key)->value;
    for (std::size_t i = 0; i < list.items.size(); ++i) {
      if (!is_odd(*in.holder, list.items[i])) continue;
      const HolderKey* const to = missing(map, holders, true, list.items[i]);
      if (to == nullptr) continue;
      std::vector<YamlNode> rest = cut(list.items, i);
      tell_like(rest.front(), "this item", in, *to);
      YamlNode& into = made(map, rest.front(), to->key, Kind::list);
      into.items = std::move(rest);
      return;
    }
  }

  // What has the keys of one entry, and no name above them; it is the state with which to begin, should it be one.
  void leave_out_nameless(const YamlNode& map, YamlNode& section, const HolderKey& in) {
    if (in.holder->list || section.kind != Kind::map || section.entries.empty() || !is_one(section, *in.holder)) return;
    if (!reader_.left_out)
      tell(section.entries.front().key,
           "\"" + section.entries.front().key.text + "\" stands right under `" + std::string(in.key) +
               ":` and is a key of " + one_of(*in.holder),
           section.flow ? "Write a name before them all: `" + std::string(in.key) + ": {NAME: {...}}`."
                        : "Is the line with a name missing above it?");
    reader_.left_out = true;
    const YamlEntry* const initial = entry_of(map, "initial");
    if (in.holder->section != Section::state) return section.entries.clear();
    YamlEntry state;
    state.key = initial != nullptr ? initial->value : section.entries.front().key;
    begin(state.value, section, Kind::map);
    state.value.entries = std::exchange(section.entries, {});
    section.entries.push_back(std::move(state));
  }
  static bool is_one(const YamlNode& section, const Holder& holder) {
    const auto has = [&](std::string_view key) { return entry_of(section, key) != nullptr; };
    if (holder.section == kCue)
      return has("kind") && (has("amount") || has("what") || has("file") || has("reach") || has("from"));
    const bool all = std::all_of(section.entries.begin(), section.entries.end(), [&](const YamlEntry& each) {
      return knows(holder.section, each.key.text) &&
             (holder.section == Section::input ? is_plain(each.value) : is_other(holder, each.value));
    });
    return all && (holder.section != Section::input ||
                   (section.entries.size() > 1 && (has("float") || has("int") || has("one_of") || has("bool"))));
  }

  // Keys of an entry that stand beside it go into it; those above the first one have lost its name.
  void move_keys(YamlNode& section, const HolderKey& in) {
    if (in.holder->section == kCue) return;
    std::vector<YamlEntry> kept;
    bool told = false;
    for (YamlEntry& entry : section.entries) {
      const std::string name = entry.key.text;
      const bool is_key = knows(in.holder->section, name) && is_other(*in.holder, entry.value);
      if (is_key && kept.empty()) {
        if (!reader_.left_out)
          tell(entry.key,
               "\"" + name + "\" stands right under `" + std::string(in.key) + ":` and is a key of " +
                   one_of(*in.holder),
               "Is the line with a name missing above it?");
        reader_.left_out = true;
      } else if (is_key && !is_plain(kept.back().value) && entry_of(kept.back().value, name) == nullptr) {
        YamlEntry& above = kept.back();
        if (!std::exchange(told, true))
          tell(entry.key,
               "\"" + name + "\" stands beside \"" + above.key.text + "\" and is a key of " + one_of(*in.holder),
               "Move it to the right, into \"" + above.key.text + "\".");
        above.value.kind = Kind::map;
        above.value.entries.push_back(std::move(entry));
      } else {
        kept.push_back(std::move(entry));
      }
    }
    section.entries = std::move(kept);
  }

  // Headings that are too far in, and entries whose own heading is missing, with all that follows them.
  void move_entries(YamlNode& map, Section of, const std::vector<HolderKey>& holders, const HolderKey& in) {
    YamlNode& section = find(map, in.key)->value;
    for (std::size_t i = 0; i < section.entries.size(); ++i) {
      const YamlEntry& entry = section.entries[i];
      if (knows(of, entry.key.text) && lacks(map, entry.key.text) && is_heading(section, i, *in.holder))
        return move_heading(map, holders, in, i);
      if (!is_odd(*in.holder, entry.value)) continue;
      const HolderKey* const to = missing(map, holders, false, entry.value);
      if (to == nullptr) continue;
      std::vector<YamlEntry> rest = cut(section.entries, i);
      tell_like(rest.front().key, "\"" + rest.front().key.text + "\"", in, *to);
      YamlNode& into = made(map, rest.front().key, to->key, Kind::map);
      into.entries = std::move(rest);
      return;
    }
  }
  static bool is_heading(const YamlNode& section, std::size_t i, const Holder& holder) {
    const YamlNode& value = section.entries[i].value;
    if (value.kind != Kind::null) return is_other(holder, value);
    return i + 1 < section.entries.size() && is_odd(holder, section.entries[i + 1].value);
  }
  void move_heading(YamlNode& map, const std::vector<HolderKey>& holders, const HolderKey& in, std::size_t i) {
    YamlNode& section = find(map, in.key)->value;
    std::vector<YamlEntry> rest = cut(section.entries, i);
    YamlEntry head = std::move(rest.front());
    rest.erase(rest.begin());
    tell(head.key, "\"" + head.key.text + "\" stands inside `" + std::string(in.key) + ":`",
         "Move it to the left, so that it begins where `" + std::string(in.key) + ":` does.");
    const bool holds = std::any_of(holders.begin(), holders.end(), [&](const HolderKey& each) {
      return each.key == head.key.text && !each.holder->list;
    });
    if (head.value.kind == Kind::null && holds) {  // what follows is its
      begin(head.value, head.key, Kind::map);
      head.value.entries = std::move(rest);
    } else {
      for (YamlEntry& each : rest) section.entries.push_back(std::move(each));
    }
    if (YamlEntry* const there = find(map, head.key.text))
      there->value = std::move(head.value);
    else
      map.entries.push_back(std::move(head));
  }

  // Entries that lost their indentation go into the section above them.
  void move_strays(YamlNode& map, Section of, const std::vector<HolderKey>& holders) {
    std::vector<YamlEntry> kept;
    std::vector<YamlEntry> strays;  // of the section above
    const HolderKey* above = nullptr;
    std::size_t at = 0;  // where that is
    const auto give = [&] {
      if (strays.empty()) return;
      YamlNode& section = kept[at].value;
      section.kind = Kind::map;
      for (YamlEntry& each : strays) section.entries.push_back(std::move(each));
      strays.clear();
    };
    for (YamlEntry& entry : map.entries) {
      const std::string& name = entry.key.text;
      if (knows(of, name)) {
        give();
        const auto found =
            std::find_if(holders.begin(), holders.end(), [&](const HolderKey& each) { return each.key == name; });
        const bool takes = found != holders.end() && !found->holder->list && !is_plain(entry.value);
        above = takes ? &*found : nullptr;
        at = kept.size();
      } else if (above != nullptr && fits(*above->holder, entry.value) && !may_know(of, name)) {
        if (strays.empty())
          tell(entry.key,
               "\"" + name + "\" stands beside `" + std::string(above->key) + ":` and is written like " +
                   one_of(*above->holder),
               "Move it to the right, under `" + std::string(above->key) + ":`.");
        strays.push_back(std::move(entry));
        continue;
      }
      kept.push_back(std::move(entry));
    }
    give();
    map.entries = std::move(kept);
  }

  // Entries that stand inside the one above them: beside that.
  void move_out(YamlNode& section, const Holder& holder) {
    std::vector<YamlEntry> kept;
    for (YamlEntry& entry : section.entries) {
      std::vector<YamlEntry> out;
      if (entry.value.kind == Kind::map && !entry.value.flow) out = taken_out(entry, holder);
      kept.push_back(std::move(entry));
      for (YamlEntry& each : out) kept.push_back(std::move(each));
    }
    section.entries = std::move(kept);
  }
  std::vector<YamlEntry> taken_out(YamlEntry& from, const Holder& holder) {
    std::vector<YamlEntry> kept, out;
    auto& entries = from.value.entries;
    for (std::size_t i = 0; i < entries.size(); ++i) {
      YamlEntry& entry = entries[i];
      const bool heads = is_head(entries, i, holder);
      const bool bare =
          holder.section == Section::state && entry.value.kind == Kind::map && entry.value.entries.empty();
      const bool like_one = heads || bare || (entry.value.kind == Kind::map && fits(holder, entry.value));
      if (i == 0 || !like_one || may_know(holder.section, entry.key.text)) {
        kept.push_back(std::move(entry));
        continue;
      }
      if (out.empty())
        tell(entry.key,
             "\"" + entry.key.text + "\" stands inside \"" + from.key.text + "\"" +
                 (heads ? " with nothing under it" : ""),
             "Move it to the left, so that it begins where \"" + from.key.text + "\" does.");
      out.push_back(std::move(entry));
      if (!heads) continue;
      YamlEntry& head = out.back();  // what follows is its
      begin(head.value, head.key, Kind::map);
      head.value.entries = cut(entries, i + 1);
      break;
    }
    entries = std::move(kept);
    return out;
  }
  // Whether nothing stands under it, and what follows could.
  static bool is_head(const std::vector<YamlEntry>& entries, std::size_t i, const Holder& holder) {
    return entries[i].value.kind == Kind::null && i + 1 < entries.size() &&
           std::all_of(entries.begin() + static_cast<std::ptrdiff_t>(i) + 1, entries.end(),
                       [&](const YamlEntry& each) { return knows(holder.section, each.key.text); });
  }

  Reader& reader_;
};

}  // namespace

void put_in_place(Reader& reader, YamlNode& root) {
  if (entry_of(root, "tape") != nullptr || entry_of(root, "rects") != nullptr) return;
  const Section section = entry_of(root, "scene") != nullptr       ? Section::scene
                          : entry_of(root, "character") != nullptr ? Section::character
                                                                   : Section::machine;
  Placing placing(reader);
  if (section == Section::machine) placing.gather(root, section);
  placing.place(root, section);
}

}  // namespace mobrin::io
