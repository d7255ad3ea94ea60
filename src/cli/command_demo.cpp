// mobrin demo: the apiary, from files to frames and events.
#include <fmt/format.h>

#include <cstdlib>
#include <filesystem>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/draw/sheet.hpp"

namespace mobrin::cli {
namespace {

// Beside the installed tool, else in the source tree it was built from.
std::optional<std::string> find_demo() {
  std::error_code error;
  const auto self = std::filesystem::read_symlink("/proc/self/exe", error);
  for (const std::filesystem::path& folder :
       {self.parent_path().parent_path() / "share/mobrin/demo/apiary", std::filesystem::path(MOBRIN_SOURCE_DEMO)})
    if (std::filesystem::exists(folder / "keeper.yaml", error)) {
      const std::string near = std::filesystem::proximate(folder, error).generic_string();
      return near.starts_with("../..") ? folder.generic_string() : near;
    }
  return std::nullopt;
}

// The tool as one can call it from here: by its name where the shell finds it, else by its path.
std::string tool_to_call() {
  std::error_code error;
  const auto self = std::filesystem::read_symlink("/proc/self/exe", error);
  std::string folders = std::getenv("PATH") != nullptr ? std::getenv("PATH") : "";
  for (std::size_t begin = 0; begin < folders.size();) {
    const std::size_t end = std::min(folders.find(':', begin), folders.size());
    const auto there = std::filesystem::path(folders.substr(begin, end - begin)) / self.filename();
    if (std::filesystem::equivalent(there, self, error)) return as_argument(self.filename().generic_string());
    begin = end + 1;
  }
  const std::string near = std::filesystem::proximate(self, error).generic_string();
  return as_argument(near.starts_with("../..") || error ? self.generic_string() : near);
}

int demo(const std::string& out) {
  const auto folder = find_demo();
  if (!folder) {
    fmt::print(stderr,
               "error: the demo's files are not beside this tool\n    Run it from the source tree, or install it with "
               "its share folder.\n");
    return kFindings;
  }
  std::error_code error;
  std::filesystem::create_directories(out, error);
  const std::string scene = fmt::format("{}/dusk.scene.yaml", *folder);
  RunRequest dusk{scene};
  dusk.picture = fmt::format("{}/dusk_lanes.png", out);
  int worst = run_scene(dusk);
  SceneDrawing strip{fmt::format("{}/dusk_strip.png", out)};
  for (const int at : {500, 2060, 2400, 3600, 5100, 6900, 7700, 8200, 9000}) strip.instants.push_back(milliseconds(at));
  SceneDrawing film{fmt::format("{}/dusk.apng", out)};
  film.plain = true;
  for (const SceneDrawing& drawing : {strip, film}) worst = std::max(worst, draw_scene_file(scene, drawing));
  fmt::print("\n");
  // A chase in which cues spawn, throw and reach.
  const std::string smoke = fmt::format("{}/smoke.scene.yaml", *folder);
  RunRequest chase{smoke};
  chase.picture = fmt::format("{}/smoke_lanes.png", out);
  worst = std::max(worst, run_scene(chase));
  SceneDrawing chased{fmt::format("{}/smoke_strip.png", out)};
  for (const int at : {1600, 2800, 3200, 4800}) chased.instants.push_back(milliseconds(at));
  worst = std::max(worst, draw_scene_file(smoke, chased));
  fmt::print("\n");
  for (const std::string_view name : {"keeper", "hornet", "hive", "smoker"}) {
    const std::string machine = fmt::format("{}/{}.yaml", *folder, name);
    const std::string tape = fmt::format("{}/{}.tape.yaml", *folder, name);
    RunRequest request{machine, tape};
    request.picture = fmt::format("{}/{}_run.png", out, name);
    worst = std::max(worst, run(request));
    const auto loaded = load_or_report(machine);
    if (!loaded) return kFindings;
    const std::string picture = fmt::format("{}/{}_sheet.png", out, name);
    const auto drawn = draw_sheet(*loaded->machine, {{}, *folder + "/"}, picture);
    if (!drawn || !drawn->empty()) {
      fmt::print(stderr, "error: {}\n", drawn ? drawn->front() : drawn.error().text());
      return kFindings;
    }
    fmt::print("{}  {}\n\n", styled(Style::strong, "picture"), picture);
  }
  // One of its claims is refuted, with the presses that do it.
  const std::string keeper = fmt::format("{}/keeper.yaml", *folder);
  fmt::print("{}  {}, claims\n", styled(Style::strong, "keeper"), keeper);
  (void)prove_claims(keeper);
  fmt::print("\n");
#ifdef MOBRIN_LIVE_PAGE
  fmt::print("Play it in your browser, see why it does what it does, go back, change it:\n  {} live {}/keeper.yaml\n",
             tool_to_call(), as_argument(*folder));
#endif
  fmt::print(
      "Every cue above lies on its frame, whatever the frame rate: try\n"
      "  {2} run {0}/keeper.yaml --tape {0}/keeper.tape.yaml --rate 24\n"
      "See the whole machine as a picture:\n"
      "  {2} draw {0}/keeper.yaml -o {1}/keeper.svg\n"
      "See who hits whom, and stop at an instant:\n"
      "  {2} run {0}/dusk.scene.yaml\n"
      "  {2} draw {0}/dusk.scene.yaml --at 2.06s -o {1}/still.png\n"
      "See why he swung at 2.05 s, and whom he hit:\n"
      "  {2} explain {0}/dusk.scene.yaml --actor keeper --at 2.05s\n"
      "Try it without a tape:\n"
      "  {2} run {0}/keeper.yaml --set carrying=net --press swing@0.5s\n"
      "See what is in a file, and what is wrong with one:\n"
      "  {2} list {0}/keeper.yaml\n"
      "  {2} check {0}/keeper.yaml\n"
      "See what is true of it whatever is pressed, and tapes that take every rule:\n"
      "  {2} prove {0}/keeper.yaml\n"
      "  {2} cover {0}/keeper.yaml -o {1}/tapes\n"
      "  {2} test {1}/tapes --keep --coverage\n"
      "Make a character of your own, of a folder of pictures (--art FOLDER) or of stand-ins:\n"
      "  {2} new bee -o {1}/bee\n"
      "Then change a number in {0}/keeper.clips.yaml and run it again.\n",
      as_argument(*folder), as_argument(out), tool_to_call());
  return worst;
}

const Command demo_command(Command::Rank::begin, "demo",
                           "Run the apiary: load it, play its tapes, print the log, write the pictures",
                           [](Parameters& parameters) -> Action {
                             const auto out = std::make_shared<std::string>("mobrin-demo");
                             parameters.option("-o,--out", *out, "The folder for the pictures");
                             parameters.footer("Example:\n  mobrin demo");
                             return [out] { return demo(*out); };
                           });

}  // namespace

}  // namespace mobrin::cli
