// The doors of the live page: what the page asks for, and the wire between a game and the page.
#include <sys/socket.h>
#include <unistd.h>

#include <chrono>
#include <filesystem>
#include <thread>

#include "../../src/live/attach.hpp"
#include "../../src/live/host.hpp"
#include "../../src/live/worker.hpp"
#include "../probe_page.hpp"
#include "kit.hpp"
#include "mobrin/core/crowd.hpp"
#include "mobrin/io/file.hpp"
#include "mobrin/pack/pack.hpp"
#include "mobrin/probe/probe.hpp"

namespace mobrin::fuzz {
namespace {

using live::Json;

const std::shared_ptr<const Cast>& cast_of_demo(const char* file) {
  static std::map<std::string, std::shared_ptr<const Cast>> known;
  auto& cast = known[file];
  if (!cast) cast = load_cast(demo_folder() + "/" + file).cast;
  must(cast != nullptr, "the demo is there");
  return cast;
}

// An answer is one, or says what is wrong.
void must_answer(const live::Response& answer) {
  must(answer.status >= 200 && answer.status < 600, "an answer has a status");
  if (answer.status >= 400) must(!Json::parse(answer.body, nullptr, false).is_discarded(), "a refusal can be read");
}

void send_all(int to, std::span<const std::byte> bytes) {
  while (!bytes.empty()) {
    const ssize_t sent = send(to, bytes.data(), bytes.size(), MSG_NOSIGNAL);
    if (sent <= 0) return;
    bytes = bytes.subspan(static_cast<std::size_t>(sent));
  }
}

}  // namespace

// A list of commands, as the page posts it.
void page_commands(Bytes bytes) {
  if (bytes.empty()) return;
  const Json body = Json::parse(text_of(bytes.subspan(1)), nullptr, false);
  if (body.is_discarded()) return;
  std::size_t told = 0;
  live::Host host(cast_of_demo((bytes[0] & 1) != 0 ? "dusk.scene.yaml" : "keeper.yaml"), nullptr, true,
                  [&](std::string_view, std::string data) { told += data.size(); });
  host.set_viewers(1);
  live::Refusal refusal;
  refusal.code.clear();
  (void)host.commands(body, refusal);
  must(refusal.code.empty() || !refusal.text.empty(), "a refusal says why");
  (void)host.frame();
  must(told > 0, "what is so is told");
}

// Edits, undoing, whole files and drafts; a list of them. The machine still loads, whatever edits were asked for; who
// saves a whole text may save a broken one.
void page_files(Bytes bytes) {
  const Json list = Json::parse(text_of(bytes), nullptr, false);
  if (!list.is_array() || list.size() > 8) return;
  static const Folder folder{"puff.yaml", "puff.png", "shared.yaml"};
  static const std::string machine = folder.file("puff.yaml");
  static const bool drafts = setenv("XDG_STATE_HOME", folder.path().c_str(), 1) == 0;
  static live::Shelf shelf;
  static live::Worker worker(
      load_cast(machine), machine, shelf, [](std::string_view, std::string) {}, [](auto, auto) {});
  static const std::string begun = *read_file(machine);
  bool typed = false;
  must(drafts, "drafts have a place");
  for (const Json& one : list) {
    if (!one.is_object()) continue;
    const std::string what = live::text_in(one, "do");
    const auto number = one.contains("file") && one["file"].is_number_unsigned() ? one["file"].get<std::size_t>() : 0;
    typed = typed || what == "save" || what == "undo" || what == "redo";  // of what was typed in another run
    must_answer(what == "edit"                     ? worker.edit(one)
                : what == "keep"                   ? worker.keep(one)
                : what == "undo" || what == "redo" ? worker.undo(what == "redo")
                : what == "save"                   ? worker.save(number, one)
                                                   : worker.file(number));
  }
  const auto now = read_file(machine);
  must(bool(now), "the file is there");
  must(typed || load_character(machine).machine.has_value(), "what was written loads");
  if (*now != begun) {
    must(bool(write_file(machine, begun)), "the file can be written");
    worker.look_around();
  }
}

// What calls itself a game: the keeper's machine, then any messages, each with its right length.
void game_messages(Bytes bytes) {
  int ends[2];
  must(socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) == 0, "there are sockets");
  std::vector<std::byte> sent;
  const auto message = [&](std::span<const std::byte> body) {
    probe::put(sent, static_cast<std::uint32_t>(body.size()));
    sent.insert(sent.end(), body.begin(), body.end());
  };
  static const std::vector<std::byte> machine = [] {
    std::vector<std::byte> out;
    probe::put(out, static_cast<std::uint8_t>(probe::Kind::machine));
    probe::put(out, std::uint16_t{0}), probe::put(out, std::uint32_t{1}),
        probe::put(out, static_cast<std::uint8_t>('a'));
    probe::put(out, static_cast<std::uint8_t>(probe::kWritable | probe::kIsCrowd));
    const auto packed = pack(keeper());
    out.insert(out.end(), packed.begin(), packed.end());
    return out;
  }();
  message(machine);
  for (std::size_t at = 0; at + 2 <= bytes.size();) {
    const std::size_t length = std::min<std::size_t>(bytes[at] + 256u * bytes[at + 1], bytes.size() - at - 2);
    message(std::as_bytes(bytes.subspan(at + 2, length)));
    at += 2 + length;
  }
  std::thread game([&] {
    send_all(ends[0], sent);
    (void)shutdown(ends[0], SHUT_WR);
    char rest[256];  // until the page has gone
    while (recv(ends[0], rest, sizeof rest, 0) > 0) continue;
    close(ends[0]);
  });
  {
    auto attach = live::Attach::over(ends[1]);
    const auto first = attach->first();
    if (!first.empty()) {
      std::size_t told = 0;
      live::Host host(live::cast_of(first, nullptr), nullptr, true,
                      [&](std::string_view, std::string data) { told += data.size(); });
      host.attach({[](auto, const auto&) { return false; }, [](auto, auto) { return false; }, [](const auto&) {}});
      host.set_viewers(1);
      attach->listen({[&](const std::vector<live::Watched>& all, std::uint32_t group) {
                        host.reload(live::cast_of(all, nullptr));
                        host.expect(group);
                      },
                      [&](live::WatchedFrame frame) { host.follow(std::move(frame)); }, [] {}});
      attach.reset();  // its thread has ended then
      (void)host.frame();
      live::Refusal refusal;
      (void)host.commands(Json::parse(R"([{"do": "take_out"}, {"do": "advance", "ticks": 600000000}])"), refusal);
    }
  }
  game.join();
}

// What calls itself a page, to a game: after the greeting any bytes.
void page_messages(Bytes bytes) {
  static Instance watched(keeper());
  static Crowd crowd(keeper());
  static Probe probe;  // goes first: it gives back what it has set on them
  static const bool shown = [] {
    for (int i = 0; i < 3; ++i) (void)crowd.add();
    return probe.show("keeper", watched) && probe.show("keepers", crowd);
  }();
  must(shown, "a probe shows");
  const int page = test::page_at(probe);
  if (page < 0) {
    static int in_vain = 0;
    must(++in_vain < 1000, "a game listens");  // no port is free after so many connections
    return std::this_thread::sleep_for(std::chrono::milliseconds(100));
  }
  const std::string greeting = test::greeting_for(probe);
  if (bytes.empty() || (bytes[0] & 7) != 0) send_all(page, std::as_bytes(std::span(greeting)));
  send_all(page, std::as_bytes(bytes));
  (void)shutdown(page, SHUT_WR);
  for (int frame = 0; frame < 3; ++frame) {
    probe.poll();
    (void)watched.advance(milliseconds(16), [](const Cue&) {});
    CrowdCues told;
    (void)crowd.advance(milliseconds(16), told);
  }
  const timeval patience{0, 20'000};
  (void)setsockopt(page, SOL_SOCKET, SO_RCVTIMEO, &patience, sizeof patience);
  char rest[4096];
  while (recv(page, rest, sizeof rest, 0) > 0) probe.poll();
  close(page);
  must(watched.now().count > 0, "the game goes on");
}

}  // namespace mobrin::fuzz
