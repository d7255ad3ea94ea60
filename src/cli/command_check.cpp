// mobrin check: loads files and reports what is wrong with them.
#include <fmt/format.h>

#include <algorithm>
#include <filesystem>
#include <memory>
#include <set>

#include "command.hpp"
#include "console.hpp"
#include "json.hpp"
#include "mobrin/check/art.hpp"
#include "mobrin/check/logic.hpp"
#include "mobrin/io/image.hpp"
#include "mobrin/io/scene.hpp"

namespace mobrin::cli {
namespace {

struct Checked {
  std::vector<Finding> findings;
  std::string summary;  // what a sound file holds
};

// Images a machine's clips name must be there, with the frames on them, and without the usual mistakes; the machine
// runs without.
void check_art(const Loaded& loaded, const std::string& path, std::vector<Finding>& findings) {
  ArtStore store(folder_of(path));
  std::set<std::string> told;
  for (const ClipInfo& clip : loaded.machine->clips()) {
    for (const FrameDef& frame : clip.def.frames) {
      if (frame.art.source.empty()) continue;
      const auto picture = store.find(frame.art);
      if (picture || !told.insert(picture.error().message).second) continue;
      Finding& finding = findings.emplace_back();
      finding.code = FindingCode::missing_art;
      const Place place = clip.def.name.place;
      finding.file = place.file < loaded.files.size() ? loaded.files[place.file] : path;
      finding.line = place.line;
      finding.column = place.column;
      finding.message = "the clip \"" + clip.def.name.text + "\": " + picture.error().message;
      finding.remedy = "The machine runs without it; pictures do not. Check the path, which is relative to this file.";
      break;
    }
  }
  const auto pixels = [&](const FrameArt& art) -> std::optional<FramePixels> {
    const auto picture = store.find(art);
    if (!picture) return std::nullopt;
    const PixelRect& rect = picture->rect;
    const auto at = 4 * (static_cast<std::size_t>(rect.y) * static_cast<std::size_t>(picture->image->width) +
                         static_cast<std::size_t>(rect.x));
    return FramePixels{picture->image->rgba.data() + at, rect.width, rect.height, picture->image->width,
                       picture->image};
  };
  for (Finding& finding : art_findings(*loaded.machine, pixels, loaded.has_machine))
    findings.push_back(std::move(finding));
}

// A look's images stand in for others: same size, same frames, and for images that clips use.
void check_looks(const Loaded& loaded, const std::string& path, std::vector<Finding>& findings) {
  ArtStore store(folder_of(path));
  for (const LookDef& look : loaded.machine->looks())
    for (const auto& [from, to] : look.art) {
      const auto report = [&](const std::string& what, const std::string& remedy) {
        Finding& finding = findings.emplace_back();
        finding.code = FindingCode::look_misfit;
        const Place place = look.name.place;
        finding.file = place.file < loaded.files.size() ? loaded.files[place.file] : path;
        finding.line = place.line;
        finding.column = place.column;
        finding.message = "the look \"" + look.name.text + "\": " + what;
        finding.remedy = remedy;
      };
      bool used = false;
      std::string told;
      for (const ClipInfo& clip : loaded.machine->clips())
        for (const FrameDef& frame : clip.def.frames) {
          if (frame.art.source != from) continue;
          used = true;
          FrameArt other = frame.art;
          other.source = to;
          const auto before = store.find(frame.art);
          const auto after = store.find(other);
          if (!before || !told.empty()) continue;
          if (!after)
            told = after.error().message;
          else if (before->image->width != after->image->width || before->image->height != after->image->height)
            told = fmt::format("{} is {} x {} pixels, {} {} x {}", to, after->image->width, after->image->height, from,
                               before->image->width, before->image->height);
        }
      if (!used)
        report("no clip uses " + from, "Name an image as the clips name it.");
      else if (!told.empty())
        report(told, "Its frames lie at the same places and are as many.");
    }
}

Checked check_tape_file(const std::string& path) {
  LoadedTape loaded = load_tape(path);
  Checked out{std::move(loaded.findings), ""};
  if (!loaded.tape) return out;
  out.summary = fmt::format("tape {}, {}", loaded.tape->name, plural(loaded.tape->steps.size(), "step"));
  if (loaded.tape->machine.empty()) {
    out.summary += "; names no machine, so its inputs were not checked";
    return out;
  }
  const Loaded machine = load_character(loaded.tape->machine);
  out.findings.insert(out.findings.end(), machine.findings.begin(), machine.findings.end());
  if (!machine.machine) return out;
  const auto more = check_tape(*loaded.tape, *machine.machine, path);
  out.findings.insert(out.findings.end(), more.begin(), more.end());
  return out;
}

Checked check_file(const std::string& path) {
  if (is_tape(path).value_or(false)) return check_tape_file(path);
  if (is_scene(path).value_or(false)) {
    LoadedScene scene = load_scene(path);
    Checked out{std::move(scene.findings), ""};
    if (scene.scene)
      out.summary = fmt::format("scene {}, {}, {:g} s", scene.scene->name, plural(scene.scene->actors.size(), "actor"),
                                scene.scene->until.to_seconds());
    return out;
  }
  Loaded loaded = load_character(path);
  Checked out{std::move(loaded.findings), ""};
  if (!loaded.machine) return out;
  check_art(loaded, path, out.findings);
  check_looks(loaded, path, out.findings);
  if (loaded.has_machine && loaded.definition)
    for (Finding& finding : logic_findings(*loaded.definition, *loaded.machine))
      out.findings.push_back(std::move(finding));
  const Machine& machine = *loaded.machine;
  const auto clips = plural(machine.clips().size(), "clip");
  if (!loaded.has_machine)
    out.summary = fmt::format("no machine; {}, {}", clips, plural(machine.inputs().size(), "input"));
  else
    out.summary =
        fmt::format("machine {}: {}, {}, {}, {}, {}", machine.name(), plural(machine.states().size() - 1, "state"),
                    plural(machine.transitions().size(), "transition"), clips, plural(machine.inputs().size(), "input"),
                    plural(machine.cues().size(), "cue"));
  return out;
}

int explain_code(const std::string& code) {
  const std::string_view text = explain_finding(code);
  if (text.empty())
    return usage("there is no more to say of `" + code + "` than its message", "The codes are in docs/checking.md.");
  fmt::print("{}\n  {}\n", styled(Style::strong, code), text);
  return kFine;
}

int check(const std::vector<std::string>& files, bool json, bool hints) {
  int exit_code = kFine;
  Json all = Json::array();
  for (const std::string& file : files) {
    Checked checked = check_file(file);
    // Hints change nothing but what is shown.
    std::vector<Finding> told;
    for (const Finding& finding : checked.findings)
      if (finding.hint && hints) told.push_back(finding);
    std::erase_if(checked.findings, [](const Finding& finding) { return finding.hint; });
    if (!checked.findings.empty()) exit_code = kFindings;
    if (json) {
      Json findings = Json::array();
      for (const auto* list : {&checked.findings, &told})
        for (const Finding& finding : *list) findings.push_back(json_of(finding));
      all.push_back({{"file", file}, {"sound", !has_errors(checked.findings)}, {"findings", findings}});
      continue;
    }
    print_findings(checked.findings, false);
    print_findings(told, false);
    if (checked.findings.empty())
      fmt::print("{}  {}  ({})\n", styled(Style::good, "fine"), file, checked.summary);
    else
      fmt::print("{}  {}  {}\n", styled(Style::bad, counts(checked.findings)), file,
                 has_errors(checked.findings) ? "will not run" : "runs");
  }
  if (json) fmt::print("{}\n", print_json({{"files", all}}, 1));
  return exit_code;
}

const Command check_command(
    Command::Rank::look, "check", "Report what is wrong with machines, clips, marks and tapes",
    [](Parameters& parameters) -> Action {
      struct Options {
        std::vector<std::string> files;
        std::string explain;
        bool json = false, hints = false;
      };
      const auto options = std::make_shared<Options>();
      parameters.places("FILE", options->files, "Files to check", Parameters::Need::optional);
      parameters.flag("--hints", options->hints, "Show hints too: matters of taste, which change no exit code");
      parameters.option("--explain", options->explain, "Say more about a finding's code: shadowed");
      parameters.flag("--json", options->json, "Print the findings as JSON");
      parameters.footer(
          "Example:\n  mobrin check keeper.yaml dusk.tape.yaml\n\nExit code: 0 when all is fine, 1 with findings.");
      return [options]() -> int {
        if (!options->explain.empty()) return explain_code(options->explain);
        if (options->files.empty())
          return usage("no file is named", "Name files to check: `mobrin check keeper.yaml`.");
        return check(options->files, options->json, options->hints);
      };
    });

}  // namespace

}  // namespace mobrin::cli
