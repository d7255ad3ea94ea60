// Loading scenes.
#include <algorithm>
#include <cmath>
#include <map>

#include "mobrin/core/names.hpp"
#include "mobrin/io/scene.hpp"
#include "tape_reader.hpp"

namespace mobrin {
namespace io {

bool check_version(Reader& reader, const YamlNode& root, std::string_view kinds);  // load.cpp

namespace {

constexpr std::size_t kMostActors = 1000;

class SceneLoader {
 public:
  LoadedScene run(const std::string& path) {
    folder_ = folder_of(path);
    LoadedScene out;
    const auto root = reader_.parse_file(path, {});
    if (root && check_version(reader_, *root, "a scene")) read(*root);
    if (!has_errors(findings_)) {
      load_machines();
      if (!has_errors(findings_)) out.scene = std::move(scene_);
    }
    out.findings = std::move(findings_);
    return out;
  }

 private:
  void read(const YamlNode& root) {
    const Fields fields = reader_.fields(root, Section::scene);
    if (const YamlNode* node = fields.get("scene"))
      if (const auto name = reader_.name(*node, "the scene's name")) scene_.name = name->text;
    if (const YamlNode* node = fields.get("until"))
      scene_.until = read_instant(reader_, *node, "`until:`").value_or(Ticks());
    else
      reader_.fail(FindingCode::missing_key, root, "the scene does not say how long it lasts", "Add `until: 8s`.");
    const YamlNode* actors = fields.get("actors");
    if (actors == nullptr)
      return reader_.fail(FindingCode::missing_key, root, "the scene has no actors", "Add `actors:` by name.");
    reader_.each_entry(*actors, "`actors:`", [&](const YamlNode& key, const YamlNode& value) {
      if (scene_.actors.size() >= kMostActors)
        return reader_.fail(FindingCode::too_large, key, "more than 1000 actors", "Split the scene up.");
      read_actor(key, value);
    });
  }

  std::optional<Vec2> point(const YamlNode& node, const char* what) {
    if (node.kind != YamlNode::Kind::list || node.items.size() != 2) {
      reader_.mismatch(node, what, "[x, y] in world units");
      return std::nullopt;
    }
    const auto x = reader_.number(node.items[0], what), y = reader_.number(node.items[1], what);
    if (!x || !y) return std::nullopt;
    if (std::abs(*x) <= kFarthest && std::abs(*y) <= kFarthest) return Vec2{*x, *y};
    reader_.fail(FindingCode::bad_value, node, std::string(what) + " is too far",
                 "Stay within 1000000000 world units.");
    return std::nullopt;
  }
  std::optional<bool> faces_left(const YamlNode& node) {
    const auto index = reader_.one_of(node, "`face:`", {"right", "left"});
    return index ? std::optional(*index == 1) : std::nullopt;
  }

  void read_actor(const YamlNode& key, const YamlNode& value) {
    const Fields fields = reader_.fields(value, Section::actor);
    if (value.kind != YamlNode::Kind::map) return;
    SceneActor actor;
    actor.name = reader_.text_of(key);
    const YamlNode* machine = fields.get("machine");
    if (machine == nullptr)
      return reader_.fail(FindingCode::missing_key, key, "the actor \"" + key.text + "\" has no machine",
                          "Add `machine: FILE`.");
    if (const auto path = reader_.name(*machine, "`machine:`")) actor.file = join(folder_, path->text);
    if (const YamlNode* node = fields.get("at")) actor.start.at = point(*node, "`at:`").value_or(Vec2());
    if (const YamlNode* node = fields.get("face")) actor.start.faces_left = faces_left(*node).value_or(false);
    if (const YamlNode* node = fields.get("scale")) {
      actor.start.scale = reader_.number(*node, "`scale:`").value_or(1);
      if (!is_sound(actor.start))
        reader_.fail(FindingCode::bad_value, *node, "`scale:` is " + node->words(), "A scale is above 0.");
    }
    if (const YamlNode* node = fields.get("tags"))
      for (const Text& tag : reader_.names(*node, "a tag")) actor.tags.push_back(tag.text);
    if (const YamlNode* node = fields.get("tape"); node != nullptr && !fields.has("steps")) {
      if (const auto path = reader_.name(*node, "`tape:`")) {
        LoadedTape tape = load_tape(join(folder_, path->text));
        for (Finding& finding : tape.findings) findings_.push_back(std::move(finding));
        if (tape.tape) actor.tape = std::move(*tape.tape);
      }
    } else if (node != nullptr) {
      reader_.fail(FindingCode::conflicting_keys, *node, "the actor has both `tape:` and `steps:`",
                   "Keep one of them.");
    }
    if (const YamlNode* node = fields.get("steps")) read_steps(reader_, *node, actor.tape);
    if (const YamlNode* node = fields.get("moves"))
      reader_.each_item(*node, [&](const YamlNode& item) { read_move(item, actor); });
    if (const YamlNode* node = fields.get("when_hit"))
      reader_.each_item(*node, [&](const YamlNode& item) { read_rule(item, actor); });
    places_.push_back(reader_.place_of(key));
    scene_.actors.push_back(std::move(actor));
  }

  void read_move(const YamlNode& node, SceneActor& actor) {
    const Fields fields = reader_.fields(node, Section::scene_move);
    if (node.kind != YamlNode::Kind::map) return;
    SceneMove move;
    const YamlNode* at = fields.get("at");
    if (at == nullptr)
      return reader_.fail(FindingCode::missing_key, node, "the move does not say when", "Add `at: 900ms`.");
    move.at = read_instant(reader_, *at, "`at:`").value_or(Ticks());
    if (const YamlNode* lasts = fields.get("for"))
      move.lasts = read_instant(reader_, *lasts, "`for:`").value_or(Ticks());
    if (const YamlNode* by = fields.get("by")) move.by = point(*by, "`by:`").value_or(Vec2());
    if (const YamlNode* face = fields.get("face")) move.faces_left = faces_left(*face);
    if (!actor.moves.empty() && move.at < actor.moves.back().at + actor.moves.back().lasts)
      return reader_.fail(FindingCode::bad_value, *at,
                          "the move at " + at->words() + " begins before the one above it ends",
                          "Put moves in order of time, one after the other.");
    actor.moves.push_back(move);
  }

  void read_rule(const YamlNode& node, SceneActor& actor) {
    const Fields fields = reader_.fields(node, Section::hit_rule);
    if (node.kind != YamlNode::Kind::map) return;
    HitRule rule;
    if (const YamlNode* box = fields.get("by"))
      if (const auto name = reader_.name(*box, "`by:`")) rule.box = *name;
    if (const YamlNode* pulse = fields.get("pulse")) rule.pulses = reader_.names(*pulse, "a pulse");
    if (const YamlNode* add = fields.get("add"))
      reader_.each_entry(*add, "`add:`", [&](const YamlNode& key, const YamlNode& value) {
        const auto number = reader_.number(value, "what is added");
        if (number && !(std::abs(*number) <= 2147483647.0))
          reader_.fail(FindingCode::bad_value, value, value.words() + " is too much to add",
                       "It lies within -2147483647 and 2147483647.");
        else if (number)
          rule.add.emplace_back(reader_.text_of(key), *number);
      });
    actor.rules.push_back(std::move(rule));
  }

  void load_machines() {
    std::map<std::string, std::optional<Machine>> machines;
    for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
      SceneActor& actor = scene_.actors[i];
      const auto [entry, fresh] = machines.try_emplace(actor.file);
      if (fresh) {
        Loaded loaded = load_character(actor.file);
        for (Finding& finding : loaded.findings) findings_.push_back(std::move(finding));
        if (loaded.has_machine) entry->second = std::move(loaded.machine);
        if (!loaded.has_machine && loaded.machine)
          reader_.fail(FindingCode::wrong_kind_of_file, places_[i], "\"" + actor.file + "\" holds no machine",
                       "Name a machine's or a character's file.");
      }
      if (!entry->second) continue;
      actor.machine = entry->second;
      for (Finding& finding :
           check_tape(actor.tape, *actor.machine, actor.tape.machine.empty() ? "the scene" : actor.file))
        findings_.push_back(std::move(finding));
      check_rules(actor);
    }
  }

  void check_rules(const SceneActor& actor) {
    Instance trial(*actor.machine);
    const auto report = [&](const Text& name, const Error& error) {
      reader_.fail(FindingCode::unknown_name, name.place, error.message,
                   error.nearest.empty() ? "Name an input of \"" + std::string(actor.machine->name()) + "\"."
                                         : "Did you mean \"" + error.nearest + "\"?");
    };
    for (const HitRule& rule : actor.rules) {
      for (const Text& pulse : rule.pulses)
        if (const auto done = trial.pulse_by_name(pulse.text); !done) report(pulse, done.error());
      for (const auto& [name, value] : rule.add) {
        const bool whole = std::floor(value) == value;
        const auto done =
            trial.set_by_name(name.text, whole ? FieldValue(static_cast<std::int64_t>(value)) : FieldValue(value));
        if (!done) report(name, done.error());
      }
    }
  }

  std::vector<std::string> files_;
  std::vector<Finding> findings_;
  Reader reader_{files_, findings_};
  std::string folder_;
  Scene scene_;
  std::vector<Place> places_;  // of the actors
};

}  // namespace
}  // namespace io

LoadedScene load_scene(const std::string& path) { return io::SceneLoader().run(path); }

std::optional<bool> is_scene(const std::string& path) { return io::has_key(path, "scene"); }

}  // namespace mobrin
