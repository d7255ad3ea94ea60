// Loading scenes.
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <map>
#include <tuple>

#include "mobrin/core/names.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/io/scene.hpp"
#include "tape_reader.hpp"

namespace mobrin {
namespace io {

namespace {

constexpr std::size_t kMostActors = 1000;

class SceneLoader {
 public:
  explicit SceneLoader(const FileText& instead) : instead_(instead) {
    reader_.instead = instead.path.empty() ? nullptr : &instead_;
  }

  LoadedScene run(const std::string& path) {
    folder_ = folder_of(path);
    LoadedScene out;
    auto root = reader_.parse_file(path, {});
    if (root && check_version(reader_, *root, "a scene")) read(*root);
    if (!has_errors(findings_)) {
      load_machines();
      if (!has_errors(findings_)) out.scene = std::move(scene_);
    }
    out.findings = std::move(findings_);
    out.files = {path};
    const auto add = [&](const std::string& file) {
      if (std::find(out.files.begin(), out.files.end(), file) == out.files.end()) out.files.push_back(file);
    };
    for (const std::string& file : files_) add(file);
    for (const auto& [file, loaded] : loaded_)
      for (const std::string& each : loaded->files) add(each);
    out.machines = std::move(loaded_);
    out.findings = sorted_by_place(std::move(out.findings), out.files);
    return out;
  }

 private:
  void read(const YamlNode& root) {
    const Fields fields = reader_.fields(root, Section::scene);
    if (const YamlNode* node = fields.get("scene"))
      if (const auto name = reader_.name(*node, "the scene's name")) scene_.name = name->text;
    std::optional<Ticks> end;
    if (const YamlNode* node = fields.get("until"))
      end = read_instant(reader_, *node, "`until:`");
    else
      reader_.fail(FindingCode::missing_key, root, "the scene does not say how long it lasts", "Add `until: 8s`.");
    scene_.until = end.value_or(Ticks());
    const auto within = [&](const char* key, double low, double high, double& to) {
      const YamlNode* node = fields.get(key);
      if (node == nullptr) return;
      const auto number = reader_.number(*node, "`" + std::string(key) + ":`");
      if (number && *number >= low && *number <= high)
        to = *number;
      else if (number)
        reader_.fail(FindingCode::bad_value, *node, "`" + std::string(key) + ":` is " + node->words(),
                     "It lies between " + shown(low) + " and " + shown(high) + ".");
    };
    within("gravity", 0, 1000, scene_.gravity);
    within("ground", -SceneRun::kStage, SceneRun::kStage, scene_.ground);
    if (const YamlNode* spawns = fields.get("spawns"))
      reader_.each_entry(*spawns, "`spawns:`",
                         [&](const YamlNode& key, const YamlNode& value) { read_spawn(key, value); });
    const YamlNode* actors = fields.get("actors");
    if ((actors == nullptr || actors->is_empty()) && fields.strange) return;  // likely what is told already
    if (actors == nullptr || actors->is_empty())
      return reader_.fail(FindingCode::missing_key, root, "the scene has no actors", "Add `actors:` by name.");
    if (actors->kind == YamlNode::Kind::list)
      return reader_.mismatch(*actors, "`actors:`", "a map with their names: `keeper: {machine: keeper.yaml}`");
    reader_.each_entry(*actors, "`actors:`", [&](const YamlNode& key, const YamlNode& value) {
      if (scene_.actors.size() >= kMostActors)
        return reader_.fail(FindingCode::too_large, key, "more than 1000 actors", "Split the scene up.");
      read_actor(key, value);
    });
    if (end && last_ && last_->first > *end)
      reader_.fail(FindingCode::after_until, *fields.get("until"),
                   "the scene ends before the last step or move of \"" + last_->second + "\"",
                   "What comes after `until:` is not run; raise it.");
  }

  std::optional<Vec2> point(const YamlNode& node, const char* what) {
    if (node.kind != YamlNode::Kind::list || node.items.size() != 2) {
      reader_.no_numbers(node, what, "[x, y] in world units");
      return std::nullopt;
    }
    const auto x = reader_.number(node.items[0], what), y = reader_.number(node.items[1], what);
    if (!x || !y) return std::nullopt;
    if (std::abs(*x) <= kFarthest && std::abs(*y) <= kFarthest) return Vec2{*x, *y};
    reader_.fail(FindingCode::bad_value, node, std::string(what) + " is too far",
                 "Stay within 1000000000 world units.");
    return std::nullopt;
  }
  // On the stage, which is some ten world units wide.
  Vec2 place(const YamlNode& node, const char* what) {
    constexpr double kOffStage = 100, kUsualUnit = 32;
    const Vec2 out = point(node, what).value_or(Vec2());
    if (std::max(std::abs(out.x), std::abs(out.y)) >= kOffStage)
      reader_.fail(FindingCode::hardly_meant, node,
                   std::string(what) + " is [" + detail::number_text(out.x) + ", " + detail::number_text(out.y) +
                       "] in world units, far off the stage",
                   "World units are not pixels: of 32 pixels it is `[" + detail::number_text(out.x / kUsualUnit) +
                       ", " + detail::number_text(out.y / kUsualUnit) + "]`.");
    return out;
  }
  std::optional<bool> faces_left(const YamlNode& node) {
    const auto index = reader_.one_of(node, "`face:`", {"right", "left"});
    return index ? std::optional(*index == 1) : std::nullopt;
  }

  void read_actor(const YamlNode& key, const YamlNode& value) {
    if (value.kind == YamlNode::Kind::scalar)
      return reader_.mismatch(value, "an actor", "a map: `{machine: " + value.text + "}`");
    const Fields fields = reader_.fields(value, Section::actor);
    if (fields.foreign) return;
    SceneActor actor;
    actor.name = reader_.text_of(key);
    const YamlNode* machine = fields.get("machine");
    if (machine == nullptr)
      return reader_.fail(FindingCode::missing_key, key, "the actor \"" + key.text + "\" has no machine",
                          "Add `machine: FILE`.");
    if (const auto path = reader_.name(*machine, "`machine:`")) actor.file = join(folder_, path->text);
    std::string tape_file = files_.front();  // where the tape's steps stand
    if (const YamlNode* node = fields.get("at")) actor.start.at = place(*node, "`at:`");
    if (const YamlNode* node = fields.get("face")) actor.start.faces_left = faces_left(*node).value_or(false);
    if (const YamlNode* node = fields.get("scale")) {
      actor.start.scale = reader_.number(*node, "`scale:`").value_or(1);
      if (!is_sound(actor.start))
        reader_.fail(FindingCode::bad_value, *node, "`scale:` is " + node->words(), "A scale is above 0.");
    }
    if (const YamlNode* node = fields.get("tags"))
      for (const Text& tag : reader_.names(*node, "a tag")) actor.tags.push_back(tag.text);
    if (const YamlNode* node = fields.get("tape"); node != nullptr && !fields.has("steps")) {
      const auto path = reader_.name(*node, "`tape:`");
      if (path && !is_missing(join(folder_, path->text), reader_.place_of(*node))) {
        LoadedTape tape = load_tape(join(folder_, path->text));
        for (Finding& finding : tape.findings) findings_.push_back(std::move(finding));
        tape_file = join(folder_, path->text);
        if (tape.tape) actor.tape = std::move(*tape.tape);
        actor.tape.expects.clear();  // they are of the machine alone
      }
    } else if (node != nullptr) {
      reader_.fail(FindingCode::conflicting_keys, *node, "the actor has both `tape:` and `steps:`",
                   "Keep one of them.");
    }
    if (const YamlNode* node = fields.get("steps")) read_steps(reader_, *node, actor.tape);
    if (const YamlNode* node = fields.get("moves"))
      reader_.each_item(*node, [&](const YamlNode& item) { read_move(item, actor); });
    if (const YamlNode* node = fields.get("when_hit"))
      reader_.each_item(*node, [&](const YamlNode& item) { read_rule(item, actor.rules); });
    if (const YamlNode* node = fields.get("grounded"))
      if (const auto name = reader_.name(*node, "`grounded:`")) actor.grounded = *name;
    const auto last = std::find_if(actor.tape.steps.rbegin(), actor.tape.steps.rend(), writes);
    if (last != actor.tape.steps.rend()) note_end(last->at, key);
    if (!actor.moves.empty()) note_end(actor.moves.back().at, key);
    places_.push_back(reader_.place_of(*machine));
    tape_files_.push_back(std::move(tape_file));
    scene_.actors.push_back(std::move(actor));
  }

  // Something that is written for `actor` comes so late.
  void note_end(Ticks at, const YamlNode& actor) {
    if (last_ && last_->first >= at) return;
    last_.emplace(at, actor.text);
  }

  static std::string shown(double number) { return std::to_string(std::lround(number)); }

  void read_spawn(const YamlNode& key, const YamlNode& value) {
    const Fields fields = reader_.fields(value, Section::scene_spawn);
    if (fields.foreign) return;
    SceneSpawn spawn;
    spawn.what = reader_.text_of(key);
    const YamlNode* machine = fields.get("machine");
    if (machine == nullptr)
      return reader_.fail(FindingCode::missing_key, key, "the spawn \"" + key.text + "\" has no machine",
                          "Add `machine: FILE`.");
    spawn.place = reader_.place_of(*machine);
    if (const auto path = reader_.name(*machine, "`machine:`")) spawn.file = join(folder_, path->text);
    if (const YamlNode* node = fields.get("tags"))
      for (const Text& tag : reader_.names(*node, "a tag")) spawn.tags.push_back(tag.text);
    if (const YamlNode* node = fields.get("velocity")) spawn.velocity = point(*node, "`velocity:`").value_or(Vec2());
    if (const YamlNode* node = fields.get("falls")) spawn.falls = reader_.boolean(*node, "`falls:`").value_or(false);
    if (const YamlNode* node = fields.get("lasts")) spawn.lasts = reader_.duration(*node, "`lasts:`").value_or(Ticks());
    if (const YamlNode* node = fields.get("when_hit"))
      reader_.each_item(*node, [&](const YamlNode& item) { read_rule(item, spawn.rules); });
    scene_.spawns.push_back(std::move(spawn));
  }

  void read_move(const YamlNode& node, SceneActor& actor) {
    if (node.kind == YamlNode::Kind::null)
      return reader_.mismatch(node, "a move", "a map such as `{at: 900ms, for: 500ms, by: [2, 0]}`");
    const Fields fields = reader_.fields(node, Section::scene_move);
    if (node.kind != YamlNode::Kind::map || fields.foreign) return;
    SceneMove move;
    const YamlNode* at = fields.get("at");
    if (at == nullptr && fields.strange) return;
    if (at == nullptr)
      return reader_.fail(FindingCode::missing_key, node, "the move does not say when", "Add `at: 900ms`.");
    const auto instant = read_instant(reader_, *at, "`at:`");
    if (!instant) return;
    move.at = *instant;
    if (const YamlNode* lasts = fields.get("for"))
      move.lasts = read_instant(reader_, *lasts, "`for:`").value_or(Ticks());
    if (const YamlNode* by = fields.get("by")) move.by = place(*by, "`by:`");
    if (const YamlNode* face = fields.get("face")) move.faces_left = faces_left(*face);
    if (const YamlNode* follows = fields.get("follows")) {
      if (const auto name = reader_.name(*follows, "`follows:`")) move.follows = *name;
      if (move.lasts.count <= 0)
        reader_.fail(FindingCode::missing_key, *follows, "the move does not say how long it follows", "Add `for: 2s`.");
      if (const YamlNode* by = fields.get("by"))
        reader_.fail(FindingCode::conflicting_keys, *by, "the move has both `by:` and `follows:`",
                     "Who follows goes where the other one is: keep one of them.");
    }
    for (const auto& [key, to, high] :
         {std::tuple("keeps", &move.keeps, kFarthest), std::tuple("speed", &move.speed, 1000.0)})
      if (const YamlNode* number = fields.get(key)) {
        *to = reader_.number(*number, "`" + std::string(key) + ":`").value_or(0);
        if (*to < 0 || *to > high)
          reader_.fail(FindingCode::bad_value, *number, "`" + std::string(key) + ":` is " + number->words(),
                       "It is 0 or more, at most " + shown(high) + ".");
      }
    if (const YamlNode* faces = fields.get("faces"))
      move.faces_it = reader_.one_of(*faces, "`faces:`", {"it"}).has_value();
    for (const char* key : {"keeps", "speed", "faces"})
      if (fields.has(key) && !fields.has("follows"))
        reader_.fail(FindingCode::missing_key, *fields.get(key), "`" + std::string(key) + ":` without `follows:`",
                     "Say whom: `follows: keeper`.");
    if (!fields.has("by") && !fields.has("face") && !fields.has("follows") && !fields.strange)
      reader_.fail(FindingCode::missing_key, node, "the move does nothing",
                   "Say how far it goes, `by: [2, 0]`, whom it follows, `follows: keeper`, or `face: left`.");
    if (!actor.moves.empty() && move.at < actor.moves.back().at + actor.moves.back().lasts)
      reader_.fail(FindingCode::bad_value, *at, "the move at " + at->words() + " begins before the one above it ends",
                   "Put moves in order of time, one after the other.");
    actor.moves.push_back(move);
  }

  void read_rule(const YamlNode& node, std::vector<HitRule>& rules) {
    if (node.kind == YamlNode::Kind::scalar || node.kind == YamlNode::Kind::null)
      return reader_.mismatch(node, "a hit rule", "a map such as `{by: sting, pulse: stung}`");
    const Fields fields = reader_.fields(node, Section::hit_rule);
    if (node.kind != YamlNode::Kind::map) return;
    HitRule rule;
    if (const YamlNode* box = fields.get("by"))
      if (const auto name = reader_.name(*box, "`by:`")) rule.box = *name;
    if (const YamlNode* pulse = fields.get("pulse")) rule.pulses = read_pulses(reader_, *pulse);
    if (const YamlNode* add = fields.get("add"))
      reader_.each_entry(*add, "`add:`", [&](const YamlNode& key, const YamlNode& value) {
        const auto number = reader_.number(value, "what is added");
        if (number && !(std::abs(*number) <= 2147483647.0))
          reader_.fail(FindingCode::bad_value, value, value.words() + " is too much to add",
                       "It lies within -2147483647 and 2147483647.");
        else if (number)
          rule.add.emplace_back(reader_.text_of(key), *number);
      });
    if (!fields.has("pulse") && !fields.has("add") && !fields.strange)
      reader_.fail(FindingCode::hardly_meant, node, "the hit rule does nothing",
                   "Add `pulse: stung`, or `add: {health: -1}`.");
    rules.push_back(std::move(rule));
  }

  // Told where it is named, not where it is not.
  bool is_missing(const std::string& file, Place named) {
    const bool edited = !instead_.path.empty() && whole_path(file) == whole_path(instead_.path);
    std::error_code error;
    if (edited || std::filesystem::exists(file, error) || error) return false;
    reader_.fail(FindingCode::unreadable_file, named, "\"" + file + "\" does not exist",
                 path_remedy(file, "Check the path; it is relative to the file it stands in."));
    return true;
  }

  void load_machines() {
    const auto load = [&](const std::string& file, Place place) -> std::optional<Machine> {
      const auto [entry, fresh] = loaded_.try_emplace(file);
      if (fresh && is_missing(file, place)) {
        entry->second = std::make_shared<const Loaded>();
      } else if (fresh) {
        entry->second = std::make_shared<const Loaded>(load_character(file, instead_));
        const Loaded& loaded = *entry->second;
        findings_.insert(findings_.end(), loaded.findings.begin(), loaded.findings.end());
        if (!loaded.has_machine && loaded.machine)
          reader_.fail(FindingCode::wrong_kind_of_file, place, "\"" + file + "\" holds no machine",
                       "Name a machine's or a character's file.");
      }
      return entry->second->has_machine ? entry->second->machine : std::nullopt;
    };
    bool all = true;
    for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
      SceneActor& actor = scene_.actors[i];
      actor.machine = load(actor.file, places_[i]);
      all = all && actor.machine;
      if (!actor.machine) continue;
      for (Finding& finding : check_tape(actor.tape, *actor.machine, tape_files_[i]))
        findings_.push_back(std::move(finding));
    }
    for (SceneSpawn& spawn : scene_.spawns) {
      spawn.machine = load(spawn.file, spawn.place);
      all = all && spawn.machine;
    }
    if (all) check_names();
  }

  // --- names, once all machines are known ---

  void unknown(const Text& name, const std::string& message, const std::vector<std::string>& known,
               const std::string& remedy) {
    const std::string near = nearest_name(name.text, known);
    const std::string those =
        known.empty() ? "" : (known.size() == 1 ? " There is " : " There are ") + in_quotes(known) + ".";
    reader_.fail(FindingCode::unknown_name, name.place, message,
                 near.empty() ? remedy + those : "Did you mean \"" + near + "\"?");
  }

  void check_names() {
    std::vector<const Machine*> all;
    for (const SceneActor& actor : scene_.actors) all.push_back(&*actor.machine);
    for (const SceneSpawn& spawn : scene_.spawns) all.push_back(&*spawn.machine);
    std::vector<std::string> hitters, spawned, asked, names;
    const auto add = [](std::vector<std::string>& to, const std::string& name) {
      if (!name.empty() && std::find(to.begin(), to.end(), name) == to.end()) to.push_back(name);
    };
    for (const Machine* machine : all) {
      for (const ClipInfo& clip : machine->clips())
        for (const BoxDef& box : clip.marks.boxes) {
          if (box.role.text == "hit") add(hitters, box.name.text);
          for (const auto* tags : {&box.hits, &box.spares})
            for (const std::string& tag : *tags) add(asked, tag);
        }
      for (const ReachDef& reach : machine->reaches()) {
        add(hitters, reach.name.text);
        for (const auto* tags : {&reach.hits, &reach.spares})
          for (const std::string& tag : *tags) add(asked, tag);
      }
      for (const ZoneInfo& zone : machine->zones())
        for (const std::string& tag : zone.def.tags) add(asked, tag);
      for (const CueDef& cue : machine->cues()) {
        // It finds whom it hits by a reach, one of the machine's.
        if (cue.kind == "damage") add(machine->reaches().empty() ? without_reach_ : hitters, cue.name.text);
        if (cue.kind != "spawn") continue;
        add(spawned, cue.name.text);
        for (const FieldDef& field : cue.fields)
          if (const auto* words = std::get_if<std::string>(&field.value); words != nullptr && field.name.text == "what")
            add(spawned, *words);
      }
    }
    for (const SceneActor& actor : scene_.actors) names.push_back(actor.name.text);
    for (const SceneSpawn& spawn : scene_.spawns) {
      if (std::find(spawned.begin(), spawned.end(), spawn.what.text) == spawned.end())
        unknown(spawn.what, "no spawn cue makes a \"" + spawn.what.text + "\"", spawned,
                "Name the field `what:` of a spawn cue, or the cue.");
      check_rules(spawn.rules, *spawn.machine, hitters);
      check_tags(spawn.tags, spawn.what, asked);
    }
    for (const SceneActor& actor : scene_.actors) {
      check_rules(actor.rules, *actor.machine, hitters);
      check_tags(actor.tags, actor.name, asked);
      if (!actor.grounded.empty())
        if (const auto input = actor.machine->input<bool>(actor.grounded.text); !input)
          reader_.fail(FindingCode::unknown_name, actor.grounded.place, input.error().message,
                       input.error().nearest.empty() ? "Name a bool of \"" + std::string(actor.machine->name()) + "\"."
                                                     : "Did you mean \"" + input.error().nearest + "\"?");
      for (const SceneMove& move : actor.moves) {
        if (move.follows.empty()) continue;
        if (move.follows.text == actor.name.text)
          reader_.fail(FindingCode::bad_value, move.follows.place, "it follows itself", "Name another actor.");
        else if (std::find(names.begin(), names.end(), move.follows.text) == names.end())
          unknown(move.follows, "there is no actor \"" + move.follows.text + "\"", names, "Name one of `actors:`.");
      }
    }
  }

  // A tag that nothing asks for does nothing: where one is near, it was meant.
  void check_tags(const std::vector<std::string>& tags, const Text& who, const std::vector<std::string>& asked) {
    for (const std::string& tag : tags) {
      if (std::find(asked.begin(), asked.end(), tag) != asked.end()) continue;
      const std::string near = nearest_name(tag, asked);
      if (near.empty() || std::find(tags.begin(), tags.end(), near) != tags.end()) continue;
      reader_.fail(FindingCode::unknown_name, who.place,
                   "nothing asks for the tag \"" + tag + "\" of \"" + who.text + "\"",
                   "Did you mean \"" + near + "\"?");
    }
  }

  void check_rules(const std::vector<HitRule>& rules, const Machine& machine, const std::vector<std::string>& hitters) {
    Instance trial(machine);
    const auto report = [&](const Text& name, const Error& error, const std::string& what) {
      reader_.fail(error.unknown ? FindingCode::unknown_name : FindingCode::wrong_type, name.place, error.message,
                   error.nearest.empty() ? "Name " + what + " of \"" + std::string(machine.name()) + "\"."
                                         : "Did you mean \"" + error.nearest + "\"?");
    };
    for (const HitRule& rule : rules) {
      if (!rule.box.empty() && std::find(hitters.begin(), hitters.end(), rule.box.text) == hitters.end()) {
        if (std::find(without_reach_.begin(), without_reach_.end(), rule.box.text) != without_reach_.end())
          reader_.fail(FindingCode::unknown_name, rule.box.place,
                       "the cue \"" + rule.box.text + "\" hits nobody: its machine has no reaches",
                       "Give it one (`reaches:`, and `reach:` of the cue), or name a box with the role `hit`.");
        else
          unknown(rule.box, "nothing called \"" + rule.box.text + "\" hits in this scene", hitters,
                  "Name a box with the role `hit`, a damage cue or its reach.");
      }
      for (const Text& pulse : rule.pulses)
        if (const auto done = trial.pulse_by_name(pulse.text); !done) report(pulse, done.error(), "a pulse");
      for (const auto& [name, value] : rule.add) {
        const bool whole = std::floor(value) == value;
        const auto done =
            trial.set_by_name(name.text, whole ? FieldValue(static_cast<std::int64_t>(value)) : FieldValue(value));
        if (done) continue;
        const bool fraction_of_whole = !whole && trial.set_by_name(name.text, std::int64_t{0});
        if (fraction_of_whole)
          reader_.fail(FindingCode::wrong_type, name.place, done.error().message,
                       "Write a whole number, or make the input a float.");
        else
          report(name, done.error(), "an int or a float");
      }
    }
  }

  const FileText instead_;
  std::map<std::string, std::shared_ptr<const Loaded>> loaded_;
  std::vector<std::string> files_;
  std::vector<std::string> without_reach_;  // damage cues of machines that have no reaches
  std::vector<Finding> findings_;
  Reader reader_{files_, findings_};
  std::string folder_;
  Scene scene_;
  std::vector<Place> places_;                          // where the actors' machines are named
  std::vector<std::string> tape_files_;                // where the steps of the actors stand
  std::optional<std::pair<Ticks, std::string>> last_;  // of all that is written: when, and for whom
};

}  // namespace
}  // namespace io

LoadedScene load_scene(const std::string& path, const FileText& instead) { return io::SceneLoader(instead).run(path); }

std::optional<bool> is_scene(const std::string& path) { return io::has_key(path, "scene"); }

}  // namespace mobrin
