// The live page: which request goes to which thread.
#include "mobrin/live/live.hpp"

#include <atomic>
#include <charconv>

#include "attach.hpp"
#include "host.hpp"
#include "loop.hpp"
#include "mobrin/io/file.hpp"
#include "page.hpp"
#include "server.hpp"
#include "worker.hpp"

namespace mobrin {
namespace {

using namespace live;

constexpr std::size_t kMostWaiting = 256;
constexpr std::chrono::milliseconds kLookAround{250};

Response refused(int status, const char* code, const std::string& text) {
  Response out;
  out.status = status;
  out.body = text_of(Refusal{status, code, text}.json());
  return out;
}

Response of_json(const Json& json) {
  Response out;
  out.body = text_of(json);
  return out;
}

std::optional<std::int64_t> number_of(std::string_view text) {
  std::int64_t out = 0;
  const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), out);
  if (error != std::errc() || end != text.data() + text.size() || text.empty()) return std::nullopt;
  return out;
}

std::optional<std::int64_t> number_of(const Request& request, const char* key) {
  const auto found = request.query.find(key);
  return found == request.query.end() ? std::nullopt : number_of(found->second);
}

}  // namespace

struct Live::Inside : live::Server::Handler {
  explicit Inside(const LiveOptions& given) : options(given) {}

  // Whatever waits is dropped; the server goes first, so that nobody asks any more.
  ~Inside() override {
    game.reset();
    server.reset();
    if (host_loop) host_loop->stop();
    if (worker_loop) worker_loop->stop();
  }

  std::string begin(LoadedCast loaded, const Tape* tape) {
    auto started = Server::start(options.port, *this);
    if (!started) return started.error().text();
    const auto publish = [this](std::string_view topic, std::string data) {
      if (server) server->publish(topic, std::move(data));
    };
    const auto cast = loaded.cast;
    server = std::move(*started);
    host = std::make_unique<Host>(cast, tape, options.still, publish);
    worker = std::make_unique<Worker>(std::move(loaded), options.file, shelf, publish, [this](auto taken, auto tables) {
      if (!game) return take(std::move(taken), std::move(tables));
      file_cast = taken;  // the game takes its file itself
    });
    stretches = {worker->tables()};
    session =
        hash_text(server->address() + std::to_string(std::chrono::system_clock::now().time_since_epoch().count()));
    hello(0);
    host_loop = std::make_unique<Loop>(kMostWaiting, [this] { return host->frame(); });
    worker_loop = std::make_unique<Loop>(kMostWaiting, [this] {
      worker->look_around();
      return Loop::Clock::now() + kLookAround;
    });
    ready.store(true, std::memory_order_release);
    return "";
  }

  // The game's machines and frames go to the host.
  void watch() {
    Host::Game asks;
    asks.write = [this](std::uint32_t actor, const TapeStep& step) {
      return actor < watched.size() && watched[actor].writable && game->write(watched[actor], step);
    };
    asks.choose = [this](std::uint32_t actor, std::uint32_t place) {
      return actor < watched.size() && watched[actor].crowd && game->choose(watched[actor], place);
    };
    asks.look_at = [this](const std::string& name) { game->look_at(name); };
    (void)host_loop->post([this, asks] { host->attach(asks); });
    Attach::Listener listener;
    listener.machines = [this](std::vector<Watched> all, std::uint32_t group) {
      // The worker's: it knows the file, and reads its art.
      (void)worker_loop->post([this, all = std::move(all), group] { take_attached(all, group); });
    };
    listener.frame = [this](WatchedFrame frame) {
      frame.gap = std::exchange(dropped, false) || frame.gap;
      dropped = !host_loop->post([this, frame = std::move(frame)]() mutable { host->follow(std::move(frame)); });
    };
    listener.ended = [this] { (void)host_loop->post([this] { host->game_ended(); }); };
    game->listen(std::move(listener));
  }
  void take_attached(const std::vector<Watched>& all, std::uint32_t group) {
    const auto cast = cast_of(all, file_cast);
    Tables made = tables_of(*cast, worker->files());
    shelf.add(made);
    take(cast, std::make_shared<const std::string>(std::move(made.json)), [this, all, group] {
      watched = all;
      host->expect(group);
    });
  }

  void hello(std::uint32_t newest) {
    server->publish("hello", text_of({{"version", 1},
                                      {"session", session},
                                      {"stretch", newest},
                                      {"file", options.file},
                                      {"still", options.still}}));
  }

  // A cast that has loaded goes on from now: the host numbers it.
  void take(std::shared_ptr<const Cast> cast, std::shared_ptr<const std::string> tables,
            std::function<void()> then = {}) {
    const auto work = [this, cast = std::move(cast), tables = std::move(tables), then = std::move(then)] {
      host->reload(cast);
      if (then) then();
      const std::uint32_t newest = host->newest();
      {
        const std::lock_guard held(lock);
        stretches.resize(newest + 1);
        stretches[newest] = tables;
      }
      hello(newest);
    };
    while (!host_loop->post(work) && !over) std::this_thread::sleep_for(std::chrono::milliseconds(5));
  }

  void viewers(std::size_t count) override {
    if (ready.load(std::memory_order_acquire)) (void)host_loop->post([this, count] { host->set_viewers(count); });
  }

  // Does something in a thread and answers what it gives.
  template <class Work>
  static void in(Loop& loop, Reply reply, Work work) {
    const auto answer = std::make_shared<Reply>(std::move(reply));
    if (!loop.post([answer, work = std::move(work)] { (*answer)(work()); }))
      (*answer)(refused(429, "too-many", "too much waits already; try again"));
  }

  void handle(const Request& request, Reply reply) override {
    if (!ready.load(std::memory_order_acquire)) return reply(refused(503, "early", "not ready yet"));
    const std::size_t slash = request.path.find('/');
    const std::string head = request.path.substr(0, slash);
    const std::string rest = slash == std::string::npos ? "" : request.path.substr(slash + 1);
    if (request.post) return post(request, head, rest, std::move(reply));
    if (const PageFile* page = page_file(request.path.empty() ? "index.html" : request.path)) {
      Response out;
      out.type = page->type;
      out.body = std::string(page->bytes);
      return reply(std::move(out));
    }
    const auto number = number_of(rest);
    if (head == "tables" && number) {
      const std::lock_guard held(lock);
      if (*number < 0 || static_cast<std::size_t>(*number) >= stretches.size() ||
          !stretches[static_cast<std::size_t>(*number)])
        return reply(refused(404, "tables", "there is no such loading"));
      Response out;
      out.shared = stretches[static_cast<std::size_t>(*number)];
      return reply(std::move(out));
    }
    if (head == "art" && number && *number >= 0) {
      Response out;
      out.shared = shelf.picture(static_cast<std::size_t>(*number));
      out.type = "image/png";
      return reply(out.shared ? std::move(out) : refused(404, "art", "there is no such picture"));
    }
    if (head == "sound" && number && *number >= 0)
      return in(*worker_loop, std::move(reply), [this, at = static_cast<std::size_t>(*number)] { return sound(at); });
    if (head == "file" && number && *number >= 0)
      return in(*worker_loop, std::move(reply),
                [this, at = static_cast<std::size_t>(*number)] { return worker->file(at); });
    if (head == "witness" && number && *number >= 0)
      return in(*worker_loop, std::move(reply),
                [this, at = static_cast<std::size_t>(*number)] { return worker->witness(at); });
    if (head == "graph") {
      const auto around = number_of(request, "around");
      const bool dark = number_of(request, "dark").value_or(0) != 0;
      const std::uint16_t state =
          around && *around >= 0 && *around < kNoIndex ? static_cast<std::uint16_t>(*around) : kNoIndex;
      return in(*worker_loop, std::move(reply), [this, rest, state, dark] { return worker->graph(rest, state, dark); });
    }
    if (head == "past") {
      if (const auto strand = number_of(request, "strand"); strand && *strand >= 0 && *strand <= UINT32_MAX)
        return in(*host_loop, std::move(reply),
                  [this, id = static_cast<std::uint32_t>(*strand)] { return of_json(host->past_of(id)); });
      const auto from = number_of(request, "from"), to = number_of(request, "to");
      if (from && to)
        return in(*host_loop, std::move(reply),
                  [this, from = Ticks(*from), to = Ticks(*to)] { return of_json(host->past(from, to)); });
    }
    reply(refused(404, "path", "there is nothing here"));
  }

  void post(const Request& request, const std::string& head, const std::string& rest, Reply reply) {
    Json body = Json::parse(request.body, nullptr, false);
    if (body.is_discarded()) return reply(refused(400, "json", "the body is no JSON"));
    const auto number = number_of(rest);
    if (head == "file" && number && *number >= 0 && body.is_object())
      return in(*worker_loop, std::move(reply), [this, at = static_cast<std::size_t>(*number), body = std::move(body)] {
        return worker->save(at, body);
      });
    if (request.path != "do") return reply(refused(404, "path", "there is nothing here"));
    // What is done to files is the worker's, one at a time.
    const Json* first = body.is_array() && body.size() == 1 && body[0].is_object() ? &body[0] : nullptr;
    const std::string what =
        first != nullptr && first->contains("do") && (*first)["do"].is_string() ? (*first)["do"] : "";
    if (what == "edit" || what == "undo" || what == "redo" || what == "keep")
      return in(*worker_loop, std::move(reply), [this, what, one = *first] {
        return what == "edit" ? worker->edit(one) : what == "keep" ? worker->keep(one) : worker->undo(what == "redo");
      });
    in(*host_loop, std::move(reply), [this, body = std::move(body)] {
      Refusal refusal;
      refusal.code.clear();
      const Json answer = host->commands(body, refusal);
      if (refusal.code.empty()) return of_json(answer);
      Response out;
      out.status = refusal.status;
      out.body = text_of(refusal.json());
      return out;
    });
  }

  Response sound(std::size_t number) const {
    const std::string path = shelf.sound(number);
    auto bytes = path.empty() || !is_plain_file(path) ? Result<std::string>(Error{"", ""}) : read_file(path);
    if (!bytes || bytes->size() > std::size_t{8} << 20) return refused(404, "sound", "there is no such sound");
    Response out;
    out.type = path.ends_with(".ogg") ? "audio/ogg" : path.ends_with(".mp3") ? "audio/mpeg" : "audio/wav";
    out.body = std::move(*bytes);
    return out;
  }

  const LiveOptions options;
  Shelf shelf;
  std::unique_ptr<Attach> game;
  std::vector<Watched> watched;           // the host's
  std::shared_ptr<const Cast> file_cast;  // the worker's: of the file that was named, for the art
  bool dropped = false;                   // the connection's thread's: a frame for which the host had no room
  std::unique_ptr<Host> host;
  std::unique_ptr<Worker> worker;
  std::mutex lock;  // of what is below
  std::vector<std::shared_ptr<const std::string>> stretches;
  std::string session;
  std::atomic<bool> over{false}, ready{false};  // ready: both loops run
  std::unique_ptr<Server> server;
  std::unique_ptr<Loop> host_loop, worker_loop;
};

Live::Live(std::unique_ptr<Inside> inside) : inside_(std::move(inside)) {}

Live::Started Live::start(const LiveOptions& options) {
  Started out;
  LoadedCast loaded;
  if (!options.file.empty()) {
    loaded = load_cast(options.file);
    out.findings = loaded.findings;
    if (!loaded.cast) return out;
  }
  std::unique_ptr<Attach> game;
  std::vector<Watched> watched;
  const std::shared_ptr<const Cast> file_cast = loaded.cast;
  if (!options.attach.empty()) {
    auto connected = Attach::connect(options.attach);
    if (!connected) {
      out.error = connected.error().text();
      return out;
    }
    game = std::move(*connected);
    watched = game->first();
    if (watched.empty()) {
      out.error = "the game at " + options.attach.substr(0, options.attach.find('/')) +
                  " shows nothing: wrong token, or another page watches it";
      return out;
    }
    loaded.cast = cast_of(watched, file_cast);
  }
  std::optional<Tape> tape;
  if (!options.tape.empty()) {
    LoadedTape read = load_tape(options.tape);
    out.findings.insert(out.findings.end(), read.findings.begin(), read.findings.end());
    if (!read.tape) return out;
    tape = std::move(read.tape);
    const auto misfits = check_tape(*tape, *loaded.cast->scene.actors.front().machine, options.tape);
    out.findings.insert(out.findings.end(), misfits.begin(), misfits.end());
    if (has_errors(misfits)) return out;
  }
  auto inside = std::make_unique<Inside>(options);
  inside->game = std::move(game);
  inside->watched = std::move(watched);
  inside->file_cast = file_cast;
  out.error = inside->begin(std::move(loaded), tape ? &*tape : nullptr);
  if (out.error.empty() && inside->game) inside->watch();
  if (out.error.empty()) out.live.reset(new Live(std::move(inside)));
  return out;
}

Live::~Live() { inside_->over = true; }

std::string Live::address() const { return inside_->server->address(); }

void Live::finish_writing() { const std::lock_guard held(inside_->worker->writing()); }

}  // namespace mobrin
