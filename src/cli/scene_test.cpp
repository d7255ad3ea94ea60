// One scene, run and held against what the steps of its actors expect.
#include <algorithm>
#include <deque>

#include "console.hpp"
#include "expectations.hpp"
#include "mobrin/io/scene.hpp"
#include "tape_test.hpp"

namespace mobrin::cli {
namespace {

class SceneTest {
 public:
  SceneTest(const LoadedScene& loaded, const std::string& path, TestResult& out)
      : scene_(*loaded.scene), out_(out), run_(scene_) {
    for (std::size_t i = 0; i < scene_.actors.size(); ++i) {
      const SceneActor& actor = scene_.actors[i];
      expectations_.emplace_back(actor.tape.expects, path, actor.name.text, run_.instance(i), out.failures);
    }
  }

  void run() {
    Changes changes;
    if (std::any_of(expectations_.begin(), expectations_.end(),
                    [](const Expectations& each) { return each.asks_for_changes(); })) {
      SceneRun first(scene_);
      for (std::size_t i = 0; i < scene_.actors.size(); ++i)
        first.set_write_hook(i, changes.hook_of(first.instance(i)));
      first.run(scene_.until, [&](const SceneRecord& record) {
        if (record.what == SceneRecord::What::told && record.actor < scene_.actors.size()) changes.hear(record.cue);
      });
    }
    std::set<Ticks> instants{scene_.until};
    for (const Expectations& each : expectations_) each.instants(changes, instants);
    for (const Ticks at : instants) {
      run_.run(at, [&](const SceneRecord& record) { hear(record); });
      for (Expectations& each : expectations_) each.look(at);
    }
    for (Expectations& each : expectations_) each.finish();
  }

 private:
  void hear(const SceneRecord& record) {
    if (record.what != SceneRecord::What::told) return;
    if (record.actor < expectations_.size()) expectations_[record.actor].hear(record.cue);
    const SceneActor& actor = run_.actor(record.actor);
    out_.run_of(actor.file, *actor.machine).hear(record.cue);
  }

  const Scene& scene_;
  TestResult& out_;
  SceneRun run_;
  std::deque<Expectations> expectations_;  // of the actors, in their order
};

}  // namespace

std::vector<Finding> expectation_findings(const LoadedScene& loaded, const std::string& path) {
  std::vector<Finding> out;
  if (!loaded.scene) return out;
  for (const SceneActor& actor : loaded.scene->actors)
    for (Finding& finding : expectation_findings({actor.tape.expects, loaded.scene->until, "scene"}, path,
                                                 *loaded.machines.at(actor.file)->definition, *actor.machine))
      out.push_back(std::move(finding));
  return out;
}

TestResult test_scene(const std::string& path) {
  TestResult out;
  out.file = path;
  out.is_scene = true;
  const LoadedScene loaded = load_scene(path);
  for (const Finding& finding : loaded.findings)
    if (is_error(finding.code)) out.findings.push_back(finding);
  for (Finding& finding : expectation_findings(loaded, path)) out.findings.push_back(std::move(finding));
  if (!loaded.scene || !out.findings.empty()) return out;
  for (const SceneActor& actor : loaded.scene->actors) {
    out.expectations += actor.tape.expects.size();
    out.run_of(actor.file, *actor.machine);
  }
  SceneTest(loaded, path, out).run();
  return out;
}

}  // namespace mobrin::cli
