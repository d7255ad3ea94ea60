// mobrin live: one page in the browser that shows, plays and edits what a file holds.
#ifdef MOBRIN_LIVE_PAGE

#include <fmt/format.h>

#include <csignal>
#include <cstdlib>
#include <memory>

#include "command.hpp"
#include "console.hpp"
#include "mobrin/live/live.hpp"

namespace mobrin::cli {
namespace {

struct LivePageOptions {
  LiveOptions live;
  std::string port;
};

int live_page(LivePageOptions options) {
  if (!options.port.empty()) {
    char* end = nullptr;
    const long port = std::strtol(options.port.c_str(), &end, 10);
    if (*end != '\0' || port < 1 || port > 65535)
      return usage("`--port " + options.port + "` is no port", "Give a number from 1 to 65535, or leave it out.");
    options.live.port = static_cast<std::uint16_t>(port);
  }
  if (options.live.file.empty() && options.live.attach.empty())
    return usage("no file is named", "Name one: `mobrin live keeper.yaml`; or watch a game: `--attach ADDRESS`.");
  // Only this thread is to be woken by them.
  sigset_t ends;
  sigemptyset(&ends);
  sigaddset(&ends, SIGINT);
  sigaddset(&ends, SIGTERM);
  sigaddset(&ends, SIGHUP);
  pthread_sigmask(SIG_BLOCK, &ends, nullptr);
  (void)std::signal(SIGPIPE, SIG_IGN);
  const Live::Started started = Live::start(options.live);
  print_findings(started.findings, true);
  if (!started.error.empty()) fmt::print(stderr, "error: {}\n", started.error);
  if (!started.live) return kFindings;
  fmt::print("{}\nOpen this address in a browser on this computer. Ctrl-C ends it.\n",
             styled(Style::strong, started.live->address()));
  std::fflush(stdout);
  int which = 0;
  (void)sigwait(&ends, &which);
  // A proof that is under way would take its time; a file that is being written gets it.
  started.live->finish_writing();
  std::_Exit(kFine);
}

const Command live_command(
    Command::Rank::look, "live", "Show, play and edit a machine or a scene on a page in the browser",
    [](Parameters& parameters) -> Action {
      const auto options = std::make_shared<LivePageOptions>();
      parameters.place("FILE", options->live.file, "A machine, a character or a scene; with --attach its art and edits",
                       Parameters::Need::optional);
      parameters.option("--attach", options->live.attach, "A running game to watch: what its probe prints");
      parameters.option("--port", options->port, "The port of 127.0.0.1 to serve at; a free one without it");
      parameters.option("--tape", options->live.tape, "A tape that plays first, until a hand touches the same inputs");
      parameters.flag("--still", options->live.still, "Time moves by command only: for tests");
      parameters.footer(
          "Example:\n  mobrin live keeper.yaml\n\nOnly this computer can open the page, and only with the whole "
          "address. Files\nare written below the folder of FILE, nowhere else.");
      return [options] { return live_page(*options); };
    });

}  // namespace
}  // namespace mobrin::cli

#endif
