// mobrin pack: a machine as a pack, and as a C++ header.
#include <fmt/format.h>

#include <filesystem>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/pack/pack.hpp"
#include "output.hpp"

namespace mobrin::cli {
namespace {

struct PackOptions {
  std::string file, out, header, name, depfile;
  bool no_names = false;
};

// What the pack or header is made of, in the form that build tools read.
std::string dependencies(const std::string& made, const Machine& machine) {
  std::string out;
  const auto escaped = [](const std::string& path) {
    std::string text;
    for (const char c : path)
      text += c == ' ' || c == '#' ? std::string("\\") + c : c == '$' ? "$$" : std::string(1, c);
    return text;
  };
  out = escaped(made) + ":";
  for (const std::string& file : machine.files())
    out += " \\\n  " + escaped(std::filesystem::absolute(file).lexically_normal().string());
  return out + "\n";
}

int pack_file(const PackOptions& options) {
  if (options.out.empty() && options.header.empty()) {
    fmt::print(stderr, "error: nothing is to be written\n    Say `-o NAME.pack`, `--cpp NAME.hpp`, or both.\n");
    return kUsage;
  }
  if (!options.depfile.empty() && options.header.empty() == options.out.empty()) {
    fmt::print(stderr, "error: `--depfile` is for one output\n    Say `-o` or `--cpp`, not both.\n");
    return kUsage;
  }
  const auto loaded = load_or_report(options.file);
  if (!loaded) return kFindings;
  if (!loaded->has_machine) {
    fmt::print(stderr, "error: {} holds no machine\n    Clips and marks are packed with the machine that uses them.\n",
               options.file);
    return kFindings;
  }
  if (!options.out.empty() && !can_write("-o", options.out, {".pack"}, &*loaded)) return kFindings;
  if (!options.header.empty() && !can_write("--cpp", options.header, {".hpp", ".h", ".hh", ".hxx"}, &*loaded))
    return kFindings;
  const Machine& machine = *loaded->machine;
  const std::vector<std::byte> packed = pack(machine, {!options.no_names});
  const std::string holds =
      fmt::format("{:.1f} KiB{}: {}, {}, {}, {}", static_cast<double>(packed.size()) / 1024,
                  options.no_names ? " without names" : "", plural(machine.states().size() - 1, "state"),
                  plural(machine.transitions().size(), "transition"), plural(machine.clips().size(), "clip"),
                  plural(machine.cues().size(), "cue"));
  if (!options.out.empty()) {
    if (!write_or_report(options.out, {reinterpret_cast<const char*>(packed.data()), packed.size()})) return kFindings;
    fmt::print("{}  {}\n", options.out, holds);
  }
  if (!options.header.empty()) {
    const std::string name =
        !options.name.empty() ? options.name : std::filesystem::path(options.header).stem().string();
    const auto text =
        header_text(machine, {name, std::filesystem::path(options.file).filename().string(), !options.no_names});
    if (!text) {
      fmt::print(stderr, "error: {}\n    `--class NAME` names the class.\n", text.error().text());
      return kFindings;
    }
    if (!write_or_report(options.header, *text)) return kFindings;
    fmt::print("{}  class {}, with the pack: {}\n", options.header, name, holds);
  }
  if (!options.depfile.empty() &&
      !write_or_report(options.depfile, dependencies(options.out.empty() ? options.header : options.out, machine)))
    return kFindings;
  if (!options.out.empty()) fmt::print("Load it: mobrin::load_pack(bytes), in mobrin/pack/pack.hpp\n");
  return kFine;
}

const Command pack_command(
    Command::Rank::ship, "pack", "Make a pack, which games load fast and without files, or a C++ header of a machine",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<PackOptions>();
      parameters.place("FILE", options->file, "The machine");
      parameters.option("-o,--out", options->out, "The pack to write, NAME.pack");
      parameters.option(
          "--cpp", options->header,
          "A C++ header to write: the pack, and a typed handle for each name, so that a misspelt one does "
          "not compile");
      parameters.option("--class", options->name, "The class in the header; without it the header's own name");
      parameters.flag("--no-names", options->no_names,
                      "Leave out the names of states, inputs, cues and the like: smaller, but logs say little");
      parameters.option("--depfile", options->depfile, "Also write which files it was made of, for build tools");
      parameters.footer(
          "Example:\n  mobrin pack hornet.yaml -o hornet.pack\n  mobrin pack hornet.yaml --cpp hornet.hpp --class "
          "Hornet\n\nIn "
          "CMake: mobrin_add_machine(game hornet.yaml CLASS Hornet)");
      return [options] { return pack_file(*options); };
    });

}  // namespace

}  // namespace mobrin::cli
