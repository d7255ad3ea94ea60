// What a session plays, from files.
#include "mobrin/live/session.hpp"

namespace mobrin {

LoadedCast load_cast(const std::string& path, const FileText& instead) {
  LoadedCast out;
  const auto cast = std::make_shared<Cast>();
  cast->file = path;
  if (is_scene(path).value_or(false)) {
    LoadedScene loaded = load_scene(path, instead);
    out.findings = std::move(loaded.findings);
    out.files = std::move(loaded.files);
    if (!loaded.scene) return out;
    cast->alone = false;
    cast->scene = std::move(*loaded.scene);
    cast->machines = std::move(loaded.machines);
    out.cast = cast;
    return out;
  }
  const auto loaded = std::make_shared<const Loaded>(load_character(path, instead));
  out.findings = loaded->findings;
  out.files = loaded->files.empty() ? std::vector<std::string>{path} : loaded->files;
  if (loaded->machine && !loaded->has_machine)
    out.findings.push_back(finding_in(path, FindingCode::wrong_kind_of_file, "\"" + path + "\" holds no machine",
                                      "Name a machine, a character or a scene."));
  if (!loaded->machine || !loaded->has_machine) return out;
  SceneActor& actor = cast->scene.actors.emplace_back();
  actor.name = Text(std::string(loaded->machine->name()));
  actor.file = path;
  actor.machine = loaded->machine;
  cast->scene.name = actor.name.text;
  cast->scene.still = true;
  cast->machines[path] = loaded;
  out.cast = cast;
  return out;
}

}  // namespace mobrin
