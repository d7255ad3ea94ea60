// Keys that stand twice in a map.
#include <algorithm>
#include <set>
#include <utility>

#include "mend.hpp"

namespace mobrin::io {
namespace {

class Joining {
 public:
  explicit Joining(Reader& reader) : reader_(reader) {}

  void join_all(YamlNode& node, bool root) {
    if (const Again again = repeated(node); !again.empty()) {
      const bool several = tell(node, again);
      if (several && !root) {  // they are another's
        drop(node.entries, again);
        reader_.left_out = true;
      } else {
        join(node, again);
      }
    }
    for (YamlNode& item : node.items) join_all(item, false);
    for (YamlEntry& entry : node.entries) join_all(entry.value, false);
  }

 private:
  using Again = std::vector<std::pair<std::size_t, std::size_t>>;  // an entry, and the first one of its key

  static Again repeated(const YamlNode& map) {
    std::vector<std::size_t> order;
    for (std::size_t i = 0; i < map.entries.size(); ++i) {
      const auto& [key, value] = map.entries[i];
      // Words without a value may be the rest of an expression that is cut at its commas.
      if (key.kind == YamlNode::Kind::scalar && !key.tagged && !(map.flow && value.kind == YamlNode::Kind::null))
        order.push_back(i);
    }
    const auto text = [&](std::size_t i) -> const std::string& { return map.entries[i].key.text; };
    std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return text(a) < text(b); });
    Again out;
    for (std::size_t i = 1, first = 0; i < order.size(); ++i) {
      if (text(order[i]) != text(order[first]))
        first = i;
      else
        out.emplace_back(order[i], order[first]);
    }
    std::sort(out.begin(), out.end());
    return out;
  }
  static void drop(std::vector<YamlEntry>& entries, const Again& again) {
    std::vector<YamlEntry> kept;
    auto next = again.begin();
    for (std::size_t i = 0; i < entries.size(); ++i) {
      if (next != again.end() && next->first == i)
        ++next;
      else
        kept.push_back(std::move(entries[i]));
    }
    entries = std::move(kept);
  }
  static void join(YamlNode& map, const Again& again) {
    std::set<std::size_t> joined;
    for (const auto& [from, into] : again) {
      append(map.entries[into].value, map.entries[from].value);
      joined.insert(into);
    }
    // What stands more than once in them comes once.
    for (const std::size_t each : joined) join(map.entries[each].value, repeated(map.entries[each].value));
    drop(map.entries, again);
  }
  static bool holds_maps(const YamlNode& node) {
    return node.kind == YamlNode::Kind::list &&
           std::all_of(node.items.begin(), node.items.end(),
                       [](const YamlNode& each) { return each.kind == YamlNode::Kind::map; });
  }
  static void append(YamlNode& into, YamlNode& from) {
    if (into.kind == YamlNode::Kind::null) {
      into = std::move(from);
    } else if (holds_maps(into) && holds_maps(from)) {  // others are one value, such as a place
      for (YamlNode& item : from.items) into.items.push_back(std::move(item));
    } else if (into.kind == YamlNode::Kind::map && from.kind == YamlNode::Kind::map) {
      for (YamlEntry& entry : from.entries) into.entries.push_back(std::move(entry));
    }
  }
  // Whether it is more than one key.
  bool tell(const YamlNode& map, const Again& again) {
    std::vector<std::string> keys;
    for (const auto& [entry, into] : again) keys.push_back(map.entries[entry].key.text);
    std::sort(keys.begin(), keys.end());
    keys.erase(std::unique(keys.begin(), keys.end()), keys.end());
    const bool several = keys.size() > 1;
    const YamlNode& first = map.entries[again.front().first].key;
    if (!told_.emplace(first.line, first.column).second) return several;  // of an alias
    if (several)
      reader_.fail(FindingCode::duplicate_key, first, "the keys " + in_quotes(keys) + " stand here a second time",
                   "Is the name missing above them that they belong under? Else keep one of each.");
    else
      reader_.fail(FindingCode::duplicate_key, first, "the key \"" + first.text + "\" stands here a second time",
                   "Remove one of the two, or join them.");
    return several;
  }

  Reader& reader_;
  std::set<std::pair<std::uint32_t, std::uint32_t>> told_;
};

}  // namespace

void join_repeated(Reader& reader, YamlNode& root) { Joining(reader).join_all(root, true); }

}  // namespace mobrin::io
