#include "marks_follow.hpp"

#include <algorithm>
#include <map>
#include <optional>
#include <unordered_set>

#include "clips_text.hpp"
#include "reader.hpp"
#include "yaml_edit.hpp"

namespace mobrin::io {
namespace {

using Range = FramesChange::Range;

std::optional<Range> frames_in(std::string_view text) {
  const std::size_t dash = text.find('-');
  const auto first = parse_whole(text.substr(0, dash));
  const auto last = dash == std::string_view::npos ? first : parse_whole(text.substr(dash + 1));
  if (!first || !last || *first < 0 || *last < *first || *last > 1'000'000) return std::nullopt;
  return Range(static_cast<std::int32_t>(*first), static_cast<std::int32_t>(*last));
}

std::optional<std::pair<Ticks, Ticks>> times_in(std::string_view text) {
  const std::size_t dash = text.find('-');
  if (dash == std::string_view::npos) return std::nullopt;
  const auto begin = read_duration(text.substr(0, dash)), end = read_duration(text.substr(dash + 1));
  return begin && end ? std::optional(std::pair(*begin, *end)) : std::nullopt;
}

// What one change means for one file.
class Follower {
 public:
  // An entry of a map, or an item of a list, that goes.
  struct Removal {
    const YamlNode* parent = nullptr;
    std::size_t index = 0;
    bool item = false;
  };

  Follower(const std::string& path, const FramesChange& change) : path_(path), change_(change) {}

  // What has lost its picture goes first, one after another: true where there is such, and nothing else is known then.
  // After all that, what is left gets its numbers.
  bool look(const YamlNode& root) {
    removal_.reset();
    replaced_.clear();
    moves_.clear();
    doubts_.clear();
    losses_.resize(gone_);
    visit(root);
    if (removal_) gone_ = losses_.size();
    return removal_.has_value();
  }
  [[nodiscard]] const std::optional<Removal>& removal() const { return removal_; }
  [[nodiscard]] const std::vector<std::pair<const YamlNode*, std::string>>& replaced() const { return replaced_; }

  FollowedMarks take() {
    FollowedMarks out{std::move(moves_), std::move(losses_)};
    out.losses.insert(out.losses.end(), doubts_.begin(), doubts_.end());
    return out;
  }
  [[nodiscard]] FollowedMarks by_hand() const {
    return {{},
            {path_ + ": the marks of \"" + change_.clip +
             "\" are written in a way that cannot be edited here; move them by hand"}};
  }

 private:
  [[nodiscard]] std::string at(const YamlNode& node) const { return path_ + ":" + std::to_string(node.line) + ": "; }
  void lose(const YamlNode& node, const std::string& what, std::int32_t frame) {
    const bool known = frame >= 0 && static_cast<std::size_t>(frame) < change_.gone.size();
    losses_.push_back(at(node) + what + " of \"" + change_.clip + "\" is lost: " +
                      (known ? "its picture " + change_.gone[static_cast<std::size_t>(frame)] + " is gone"
                             : "its pictures are gone"));
  }
  void move(const YamlNode& node, const std::string& what, const std::string& from, const std::string& to) {
    if (from == to) return;
    replaced_.emplace_back(&node, written(node, to));
    moves_.push_back(at(node) + what + " of \"" + change_.clip + "\" goes from " + from + " to " + to);
  }
  // As this file writes words.
  [[nodiscard]] std::string written(const YamlNode& node, const std::string& words) const {
    return node.quoted ? "\"" + words + "\"" : words;
  }

  // --- the file ---

  void visit(const YamlNode& root) {
    if (const YamlEntry* marks = entry_of(root, "marks"))
      if (const YamlEntry* clip = entry_of(marks->value, change_.clip)) {
        visit_marks(clip->value);
        if (!removal_ && !change_.renamed.empty()) {
          replaced_.emplace_back(&clip->key, written(clip->key, change_.renamed));
          moves_.push_back(at(clip->key) + "the marks of \"" + change_.clip + "\" are those of \"" + change_.renamed +
                           "\" now");
        }
      }
    states_.clear();
    gather_states(root);
    if (!removal_) visit_states(root);
  }

  void gone(const YamlNode& map, const YamlEntry& entry) {
    removal_ = {&map, static_cast<std::size_t>(&entry - map.entries.data())};
  }

  void visit_marks(const YamlNode& marks) {
    if (const YamlEntry* cues = entry_of(marks, "cues"))
      for (const YamlEntry& entry : cues->value.entries)
        if (visit_place(entry.key, "the cue " + names_of(entry.value), [&] { gone(cues->value, entry); })) return;
    if (const YamlEntry* offsets = entry_of(marks, "offsets"))
      for (const YamlEntry& entry : offsets->value.entries)
        if (visit_stretch(entry.key, "the offset", Stands::as_key, [&] { gone(offsets->value, entry); })) return;
    for (const char* section : {"spans", "windows"})
      if (const YamlEntry* all = entry_of(marks, section))
        for (const YamlEntry& entry : all->value.entries) {
          const std::string what = (section[0] == 's' ? "the span " : "the window ") + entry.key.text;
          const YamlEntry* inner = entry.value.kind == YamlNode::Kind::map ? entry_of(entry.value, "frames") : nullptr;
          if (visit_stretch(inner != nullptr ? inner->value : entry.value, what, Stands::as_value,
                            [&] { gone(all->value, entry); }))
            return;
        }
    if (const YamlEntry* boxes = entry_of(marks, "boxes")) {
      const YamlNode& list = boxes->value;
      for (std::size_t i = 0; i < (list.kind == YamlNode::Kind::list ? list.items.size() : 1); ++i) {
        const YamlNode& box = list.kind == YamlNode::Kind::list ? list.items[i] : list;
        const YamlEntry* frames = entry_of(box, "frames");
        const YamlEntry* name = entry_of(box, "name");
        if (frames == nullptr) continue;
        const auto remove = [&] {
          if (list.kind == YamlNode::Kind::list && list.items.size() > 1)
            removal_ = {&list, i, true};
          else
            gone(marks, *boxes);
        };
        if (visit_stretch(frames->value, "the box " + (name == nullptr ? "" : name->value.text), Stands::as_value,
                          remove))
          return;
      }
    }
    if (const YamlEntry* tracks = entry_of(marks, "tracks"))
      for (const YamlEntry& track : tracks->value.entries)
        if (const YamlEntry* keys = entry_of(track.value, "keys"))
          for (const YamlEntry& key : keys->value.entries)
            // A track has a key at least: with the last one it goes itself.
            if (keys->value.entries.size() == 1
                    ? visit_place(key.key, "the track " + track.key.text, [&] { gone(tracks->value, track); })
                    : visit_place(key.key, "a key of the track " + track.key.text, [&] { gone(keys->value, key); }))
              return;
  }

  [[nodiscard]] static std::string names_of(const YamlNode& value) {
    if (value.kind == YamlNode::Kind::scalar) return value.text;
    std::string out;
    for (const YamlEntry& entry : value.entries) out += (out.empty() ? "" : ", ") + entry.key.text;
    for (const YamlNode& item : value.items) out += (out.empty() ? "" : ", ") + names_of(item);
    return out;
  }

  // `3`, `5.end` or `0.22s`. True: it was removed.
  template <class Remove>
  bool visit_place(const YamlNode& key, const std::string& what, const Remove& remove) {
    const std::string& text = key.text;
    const auto lost = [&](std::int32_t frame) {
      lose(key, what, frame);
      remove();
      return true;
    };
    if (const auto when = read_duration(text)) {
      const auto now = change_.time(*when, false);
      if (!now) return lost(change_.frame_at(*when));
      if (*now != *when) move(key, what, text, time_text(*now));
      return false;
    }
    const bool end = text.ends_with(".end");
    const auto number = parse_whole(end ? text.substr(0, text.size() - 4) : text);
    if (!number || *number < 0 || *number > 1'000'000) return false;
    const auto before = static_cast<std::int32_t>(*number);
    const auto now = change_.frame(before);
    if (!now) return lost(before);
    if (*now != before) move(key, what, text, std::to_string(*now) + (end ? ".end" : ""));
    return false;
  }

  // One stretch or a list of them, in frames or times. True: it was removed.
  enum class Stands : std::uint8_t { as_value, as_key };
  template <class Remove>
  bool visit_stretch(const YamlNode& value, const std::string& what, Stands stands, const Remove& remove) {
    const bool listed = value.kind == YamlNode::Kind::list;
    std::vector<Range> frames;
    std::vector<std::string> texts;  // what is now, as words
    std::string before;
    bool timed = false, changed = false;
    for (const YamlNode& item : listed ? value.items : std::vector<YamlNode>{value}) {
      before += (before.empty() ? "" : ", ") + item.text;
      if (const auto range = frames_in(item.text)) {
        frames.push_back(*range);
        continue;
      }
      const auto times = times_in(item.text);
      if (!times) return false;
      timed = true;
      auto begin = change_.time(times->first, false), end = change_.time(times->second, true);
      // Where an end has lost its picture, the nearest frame inside that has not stands for it.
      if (!begin || !end) {
        std::optional<std::int32_t> first, last;
        for (std::int32_t f = change_.frame_at(times->first);
             f < change_.frames_before() && change_.before[static_cast<std::size_t>(f)] < times->second; ++f)
          if (const auto now = change_.frame(f)) {
            if (!first) first = now;
            last = now;
          }
        if (!first) {
          changed = true;
          continue;
        }
        if (!begin) begin = change_.now[static_cast<std::size_t>(*first)];
        if (!end) end = change_.now[static_cast<std::size_t>(*last) + 1];
      }
      if (*begin == times->first && *end == times->second) {
        texts.push_back(item.text);
        continue;
      }
      changed = true;
      if (*begin < *end)
        texts.push_back(time_text(*begin) + "-" + time_text(*end));
      else  // the order of its pictures has turned
        doubts_.push_back(at(item) + what + " of \"" + change_.clip + "\" from " + item.text +
                          " is lost: its pictures stand in another order");
    }
    const std::vector<Range> now = change_.ranges(frames);
    // What was written as parts of one is the same as it.
    const auto as_set = [](const std::vector<Range>& all) {
      std::vector<std::int32_t> out;
      for (const Range& r : all)
        for (std::int32_t f = r.first; f <= r.second; ++f) out.push_back(f);
      std::sort(out.begin(), out.end());
      return out;
    };
    if (!timed && (frames.empty() || as_set(now) == as_set(frames))) return false;
    if (timed && !changed && as_set(now) == as_set(frames)) return false;
    for (const Range& r : now)
      texts.push_back(r.first == r.second ? std::to_string(r.first)
                                          : std::to_string(r.first) + "-" + std::to_string(r.second));
    if (texts.empty()) {
      lose(value, what, frames.size() == 1 && frames[0].first == frames[0].second ? frames[0].first : -1);
      remove();
      return true;
    }
    std::string to;
    for (const std::string& text : texts) to += (to.empty() ? "" : ", ") + (listed ? word(value, text) : text);
    if (before == to) return false;
    if (texts.size() > 1 && stands == Stands::as_key) {  // a key is no list
      losses_.push_back(at(value) + what + " of \"" + change_.clip + "\" at " + before +
                        " is lost: its frames do not follow one another any more");
      remove();
      return true;
    }
    moves_.push_back(at(value) + what + " of \"" + change_.clip + "\" goes from " + before + " to " + to);
    replaced_.emplace_back(&value, listed || texts.size() > 1 ? "[" + to + "]" : written(value, to));
    return false;
  }
  [[nodiscard]] std::string word(const YamlNode& list, const std::string& text) const {
    const bool quotes = !list.items.empty() && list.items[0].quoted;
    return quotes ? "\"" + text + "\"" : text;
  }
  // Poses of the clip, and `during:` frames of transitions out of states that play it.
  void visit_states(const YamlNode& node) {
    if (const YamlEntry* pose = entry_of(node, "pose"); pose != nullptr && pose->value.kind == YamlNode::Kind::map) {
      const YamlEntry* clip = entry_of(pose->value, "clip");
      const YamlEntry* which = entry_of(pose->value, "frame");
      if (clip != nullptr && which != nullptr && clip->value.text == change_.clip)
        if (const auto number = parse_whole(which->value.text);
            number && *number >= 0 && *number < change_.frames_before()) {
          const auto before = static_cast<std::int32_t>(*number);
          if (const auto now = change_.frame(before))
            move(which->value, "a pose", std::to_string(before), std::to_string(*now));
          else
            lose(which->value, "a pose", before);
        }
    }
    const YamlEntry* clip = entry_of(node, "clip");
    const YamlEntry* go = entry_of(node, "go");
    if (clip != nullptr && clip->value.text == change_.clip && go != nullptr)
      for (const YamlNode& rule : go->value.items)
        if (const YamlEntry* during = entry_of(rule, "during"))
          if (frames_in(during->value.text) || times_in(during->value.text))
            (void)visit_stretch(during->value, "`during:`", Stands::as_value, [] {});
    visit_start(node);
    for (const YamlEntry& entry : node.entries)
      if (entry.key.text != "marks") visit_states(entry.value);
    for (const YamlNode& item : node.items) visit_states(item);
  }

  // --- where the play of a transition's target begins ---

  void gather_states(const YamlNode& node) {
    for (const YamlEntry& entry : node.entries) {
      if (entry.key.text == "states")
        for (const YamlEntry& state : entry.value.entries) states_.emplace_back(state.key.text, &state.value);
      if (entry.key.text != "marks") gather_states(entry.value);
    }
  }
  enum class Plays : std::uint8_t { no, maybe, yes };
  // Whether entering the state plays the clip, and nothing but it.
  [[nodiscard]] Plays plays(const YamlNode& state) const {
    if (const YamlEntry* clip = entry_of(state, "clip")) {
      if (clip->value.kind == YamlNode::Kind::scalar) return clip->value.text == change_.clip ? Plays::yes : Plays::no;
      const auto all = leaves(clip->value);
      const bool named =
          std::any_of(all.begin(), all.end(), [&](const auto& leaf) { return leaf.second == change_.clip; });
      return named ? Plays::maybe : Plays::no;
    }
    const YamlEntry* inside = entry_of(state, "states");
    const YamlEntry* initial = entry_of(state, "initial");
    if (inside != nullptr)
      for (const YamlEntry& child : inside->value.entries)
        if (inside->value.entries.size() == 1 || (initial != nullptr && initial->value.text == child.key.text))
          return plays(child.value);
    // Several clips by a blend, several regions, ...
    const auto all = leaves(state);
    const bool named =
        std::any_of(all.begin(), all.end(), [&](const auto& leaf) { return leaf.second == change_.clip; });
    return named ? Plays::maybe : Plays::no;
  }
  [[nodiscard]] Plays target_plays(std::string target) const {
    if (target == "back") return Plays::maybe;
    const bool last = target.ends_with("/last");
    if (last) target.erase(target.size() - 5);
    const std::string name = target.substr(target.rfind('/') == std::string::npos ? 0 : target.rfind('/') + 1);
    int found = 0, yes = 0, maybe = 0;
    for (const auto& [state, node] : states_) {
      if (state != name) continue;
      ++found;
      const Plays each = plays(*node);
      yes += each == Plays::yes ? 1 : 0;
      maybe += each == Plays::maybe ? 1 : 0;
    }
    if (found == 0) return Plays::maybe;
    if (yes == found && !last) return Plays::yes;
    return yes + maybe > 0 ? Plays::maybe : Plays::no;
  }
  void visit_start(const YamlNode& rule) {
    const YamlEntry *start = entry_of(rule, "start"), *to = entry_of(rule, "to");
    if (start == nullptr || to == nullptr) return;
    const std::string& text = start->value.text;
    std::int32_t before = 0;
    std::optional<std::string> now;  // empty where its picture has gone
    if (const auto when = read_duration(text)) {
      before = change_.frame_at(*when);
      if (const auto moved = change_.time(*when, false)) now = *moved == *when ? text : time_text(*moved);
    } else {
      const auto number = parse_whole(text);
      if (!number || *number < 0 || *number >= change_.frames_before()) return;
      before = static_cast<std::int32_t>(*number);
      if (const auto moved = change_.frame(before)) now = std::to_string(*moved);
    }
    if (now && *now == text) return;
    const Plays target = target_plays(to->value.text);
    const std::string what = "the start of the play in \"" + to->value.text + "\"";
    if (target == Plays::maybe)
      doubts_.push_back(at(start->value) + what + " may be meant at a picture of \"" + change_.clip +
                        "\" that stands elsewhere now; look at `start: " + text + "`");
    else if (target == Plays::yes && !now)
      lose(start->value, what, before);
    else if (target == Plays::yes)
      move(start->value, what, text, *now);
  }

  const std::string& path_;
  const FramesChange& change_;
  std::optional<Removal> removal_;
  std::vector<std::pair<std::string, const YamlNode*>> states_;  // of this file, by their own names
  std::vector<std::pair<const YamlNode*, std::string>> replaced_;
  std::vector<std::string> moves_, losses_;
  std::size_t gone_ = 0;             // so many of the losses are of what has been removed
  std::vector<std::string> doubts_;  // losses of what stays in the file
};

// All that an edit must not touch: names and values, without what stands on frames of these clips.
std::vector<std::pair<std::string, std::string>> outside(const YamlNode& root,
                                                         std::span<const FramesChange* const> changes) {
  std::unordered_set<std::string_view> clips;
  for (const FramesChange* change : changes) {
    clips.insert(change->clip);
    if (!change->renamed.empty()) clips.insert(change->renamed);
  }
  constexpr std::string_view kMarks = "/marks/";
  const auto stands_on_frames = [&](std::string_view path) {
    if (!path.starts_with(kMarks)) return false;
    path.remove_prefix(kMarks.size());
    return clips.count(path.substr(0, path.find('/'))) > 0;
  };
  auto all = leaves(root);
  std::erase_if(all, [&](const auto& leaf) {
    return stands_on_frames(leaf.first) || leaf.first.find("/pose/") != std::string::npos ||
           leaf.first.ends_with("/during") || leaf.first.ends_with("/start");
  });
  return all;
}

using Words = std::pair<const YamlNode*, std::string>;

// Whether two clips that share their marks by an alias want other words at one place.
bool at_odds(const std::vector<Words>& all) {
  std::map<std::pair<std::uint32_t, std::uint32_t>, std::string_view> words;  // by line and column
  return std::any_of(all.begin(), all.end(), [&](const Words& each) {
    const auto [at, fresh] = words.try_emplace({each.first->line, each.first->column}, each.second);
    return !fresh && at->second != each.second;
  });
}

// All changes of a text at once; false, and none of them, where that cannot be done.
bool follow_together(const std::string& path, std::string& text, std::span<const FramesChange* const> changes,
                     std::vector<FollowedMarks>& out) {
  std::vector<Follower> followers;
  followers.reserve(changes.size());
  for (const FramesChange* change : changes) followers.emplace_back(path, *change);
  std::string now = text;
  std::optional<std::vector<std::pair<std::string, std::string>>> others;
  for (bool is_done = false;;) {
    YamlNode root;
    YamlProblem problem;
    if (!parse_yaml(now, root, problem)) return false;
    if (!others) others = outside(root, changes);
    if (is_done) {
      if (outside(root, changes) != *others) return false;
      break;
    }
    YamlText edit(now, root);
    std::vector<Follower::Removal> removals;  // of different clips, so none lies within another
    std::vector<Words> replaced;
    for (Follower& each : followers) {
      if (each.look(root)) removals.push_back(*each.removal());
      replaced.insert(replaced.end(), each.replaced().begin(), each.replaced().end());
    }
    if (removals.empty()) {
      if (now == text && replaced.empty()) break;
      if (at_odds(replaced)) return false;
      edit.replace_nodes(std::move(replaced));
      is_done = true;
    }
    // From the end on, so that what stands before is where the tree says.
    const auto place = [&](const Follower::Removal& each) {
      return edit.begin_of(each.item ? each.parent->items[each.index] : each.parent->entries[each.index].key);
    };
    std::sort(removals.begin(), removals.end(), [&](const auto& a, const auto& b) { return place(a) > place(b); });
    const auto same = [&](const auto& a, const auto& b) { return place(a) == place(b); };  // by an alias
    if (std::adjacent_find(removals.begin(), removals.end(), same) != removals.end()) return false;
    for (const Follower::Removal& each : removals)
      each.item ? edit.remove_item(*each.parent, each.index) : edit.remove_entry(*each.parent, each.index);
    now = edit.text();
  }
  text = std::move(now);
  out.clear();
  for (Follower& each : followers) out.push_back(each.take());
  return true;
}

}  // namespace

std::vector<FollowedMarks> follow_marks(const std::string& path, std::string& text,
                                        std::span<const FramesChange* const> changes) {
  const std::string mark = text.starts_with("\xEF\xBB\xBF") ? text.substr(0, 3) : "";
  std::string now = text.substr(mark.size());
  std::vector<FollowedMarks> out;
  if (!follow_together(path, now, changes, out)) {
    out.clear();
    std::vector<FollowedMarks> alone;
    for (const FramesChange* const& change : changes)
      if (follow_together(path, now, {&change, 1}, alone))
        out.push_back(std::move(alone.front()));
      else
        out.push_back(Follower(path, *change).by_hand());
  }
  text = mark + now;
  return out;
}

}  // namespace mobrin::io
