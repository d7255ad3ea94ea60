// The viewer's end of a probe: reads its messages and makes sense of them.
#include "attach.hpp"

#include <arpa/inet.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>

#include "mobrin/bank/bank.hpp"
#include "mobrin/probe/wire.hpp"

namespace mobrin::live {
namespace {

bool receive_all(int socket, std::byte* to, std::size_t size) {
  while (size > 0) {
    const ssize_t got = recv(socket, to, size, 0);
    if (got <= 0) return false;
    to += got;
    size -= static_cast<std::size_t>(got);
  }
  return true;
}

// What was written, as a step; of what a restore left nothing is written.
std::optional<TapeStep> step_of(const Machine& machine, const probe::Write& write) {
  TapeStep out;
  const auto kind = static_cast<InstanceWrite::Kind>(write.kind);
  if (kind == InstanceWrite::Kind::input || kind == InstanceWrite::Kind::pulse) {
    if (write.index >= machine.inputs().size()) return std::nullopt;
    const InputDef& input = machine.inputs()[write.index];
    if (kind == InstanceWrite::Kind::pulse) {
      out.pulses.push_back(input.name);
      return out;
    }
    auto value = probe::value_of(input, write.value);
    if (!value) return std::nullopt;
    out.set.emplace_back(input.name, std::move(*value));
    return out;
  }
  if (kind == InstanceWrite::Kind::rate) return out.rate = write.value, out;
  if (kind == InstanceWrite::Kind::freeze) return out.freeze = Ticks(write.ticks), out;
  if (kind == InstanceWrite::Kind::reset) return out.reset = true, out;
  if (kind == InstanceWrite::Kind::force && write.index < machine.states().size())
    return out.force = Text(machine.states()[write.index].path), out;
  return std::nullopt;
}

}  // namespace

Result<std::unique_ptr<Attach>> Attach::connect(const std::string& address) {
  const Error wrong{"\"" + address + "\" is no address of a game", "",
                    "Give what the game prints: 127.0.0.1:PORT/TOKEN."};
  const std::size_t colon = address.find(':'), slash = address.find('/');
  if (colon == std::string::npos || slash == std::string::npos || slash < colon) return wrong;
  const std::string host = address.substr(0, colon), token = address.substr(slash + 1);
  std::uint16_t port = 0;
  const char* end = address.data() + slash;
  if (std::from_chars(address.data() + colon + 1, end, port).ptr != end || port == 0 || token.empty() ||
      token.size() > 64)
    return wrong;
  sockaddr_in to{};
  to.sin_family = AF_INET;
  to.sin_port = htons(port);
  if (inet_pton(AF_INET, host == "localhost" ? "127.0.0.1" : host.c_str(), &to.sin_addr) != 1) return wrong;
  const int socket = ::socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  const timeval patience{5, 0};
  (void)setsockopt(socket, SOL_SOCKET, SO_SNDTIMEO, &patience, sizeof patience);
  if (socket < 0 || ::connect(socket, reinterpret_cast<sockaddr*>(&to), sizeof to) != 0) {
    if (socket >= 0) close(socket);
    return Error{"no game answers at " + host + ":" + std::to_string(port), "",
                 "Is it running, with a Probe? It prints another address each time it starts."};
  }
  const std::string greeting = std::string(probe::kGreeting) + token + "\n";
  if (send(socket, greeting.data(), greeting.size(), MSG_NOSIGNAL) != static_cast<ssize_t>(greeting.size())) {
    close(socket);
    return Error{"the game does not listen", ""};
  }
  std::unique_ptr<Attach> out(new Attach(socket));
  out->thread_ = std::thread([self = out.get()] { self->read_all(); });
  return out;
}

Attach::~Attach() {
  over_ = true;
  (void)shutdown(socket_, SHUT_RDWR);
  if (thread_.joinable()) thread_.join();
  close(socket_);
}

std::vector<Watched> Attach::first() {
  std::unique_lock held(lock_);
  came_.wait_for(held, std::chrono::seconds(5), [&] { return whole_ || over_; });
  return watched_;
}

void Attach::listen(Listener listener) {
  const std::lock_guard held(lock_);
  listener_ = std::move(listener);
  for (WatchedFrame& frame : early_) listener_.frame(std::move(frame));
  early_.clear();
}

void Attach::read_all() {
  for (;;) {
    std::byte head[4];
    if (!receive_all(socket_, head, 4)) break;
    const auto size = probe::Taker(head, 4).take<std::uint32_t>();
    if (size == 0 || size > probe::kMostBytes) break;
    std::vector<std::byte> message(size);
    if (!receive_all(socket_, message.data(), size) || !take(message)) break;
  }
  const std::lock_guard held(lock_);
  over_ = true;
  came_.notify_all();
  if (listener_.ended) listener_.ended();
}

bool Attach::take(const std::vector<std::byte>& message) {
  probe::Taker taker(message.data(), message.size());
  const auto kind = static_cast<probe::Kind>(taker.take<std::uint8_t>());
  const std::lock_guard held(lock_);
  if (kind == probe::Kind::machine) {
    const auto id = taker.take<std::uint16_t>();
    const auto length = taker.take<std::uint32_t>();
    const std::byte* name = taker.bytes(length);
    const bool writable = taker.take<std::uint8_t>() != 0;
    const std::size_t left = taker.left();
    const std::byte* bank = taker.bytes(left);
    if (!taker.sound() || name == nullptr) return false;
    auto machine = load_bank({bank, left});
    if (!machine) return false;
    if (whole_) watched_.clear(), whole_ = false;  // all come anew
    watched_.push_back({id, std::string(reinterpret_cast<const char*>(name), length), std::move(*machine), writable});
    return true;
  }
  if (kind != probe::Kind::frame) return false;
  WatchedFrame frame;
  (void)taker.take<std::uint64_t>();
  frame.gap = taker.take<std::uint8_t>() != 0;
  const auto count = taker.take<std::uint16_t>();
  for (std::uint32_t i = 0; i < count; ++i) {
    const auto id = taker.take<std::uint16_t>();
    const auto writes = taker.take<std::uint32_t>();
    const auto of = std::find_if(watched_.begin(), watched_.end(), [&](const Watched& each) { return each.id == id; });
    for (std::uint32_t w = 0; w < writes && taker.sound(); ++w) {
      const probe::Write write = taker.write();
      if (of == watched_.end()) continue;
      const auto step = step_of(of->machine, write);
      if (!step) continue;
      SessionWrite& out = frame.writes.emplace_back();
      out.at = Ticks(write.at);
      out.actor = static_cast<std::uint32_t>(of - watched_.begin());
      out.step = *step;
    }
    const auto size = taker.take<std::uint32_t>();
    const std::byte* block = taker.bytes(size);
    if (block == nullptr || of == watched_.end() || size != of->machine.block_size()) return false;
    frame.ids.push_back(id);
    frame.blocks.emplace_back(block, block + size);
  }
  if (!taker.sound() || frame.ids.size() != watched_.size()) return frame.ids.empty() && taker.sound();
  std::stable_sort(frame.writes.begin(), frame.writes.end(),
                   [](const SessionWrite& a, const SessionWrite& b) { return a.at < b.at; });
  if (!whole_) {
    whole_ = true;
    came_.notify_all();
    if (listener_.machines) listener_.machines(watched_);
  }
  if (listener_.frame)
    listener_.frame(std::move(frame));
  else if (early_.size() < 1000)
    early_.push_back(std::move(frame));
  return true;
}

bool Attach::write(const Watched& to, const TapeStep& step) {
  const auto inputs = to.machine.inputs();
  std::vector<std::byte> out;
  const auto add = [&](InstanceWrite::Kind kind, std::uint16_t index, double value, Ticks ticks) {
    probe::put(out, static_cast<std::uint32_t>(1 + 2 + probe::kWriteBytes));
    probe::put(out, static_cast<std::uint8_t>(probe::Kind::write));
    probe::put(out, to.id);
    probe::put(out, probe::Write{0, static_cast<std::uint8_t>(kind), index, value, ticks.count});
  };
  const auto index_of = [&](const std::string& name) {
    std::uint16_t i = 0;
    while (i < inputs.size() && inputs[i].name.text != name) ++i;
    return i;
  };
  if (step.reset) add(InstanceWrite::Kind::reset, kNoIndex, 0, {});
  for (const auto& [name, value] : step.set) {
    const std::uint16_t i = index_of(name.text);
    if (i < inputs.size()) add(InstanceWrite::Kind::input, i, probe::number_of(inputs[i], value), {});
  }
  for (const Text& name : step.pulses) add(InstanceWrite::Kind::pulse, index_of(name.text), 0, {});
  if (step.rate) add(InstanceWrite::Kind::rate, kNoIndex, *step.rate, {});
  if (step.freeze) add(InstanceWrite::Kind::freeze, kNoIndex, 0, *step.freeze);
  if (step.force)
    if (const auto state = to.machine.state(step.force->text)) add(InstanceWrite::Kind::force, state->index, 0, {});
  return send(socket_, out.data(), out.size(), MSG_NOSIGNAL) == static_cast<ssize_t>(out.size());
}

std::shared_ptr<const Cast> cast_of(const std::vector<Watched>& watched, const std::shared_ptr<const Cast>& file) {
  const auto out = std::make_shared<Cast>();
  out->alone = watched.size() == 1;
  out->scene.still = true;
  out->scene.name = watched.size() == 1 ? watched.front().name : "a running game";
  for (std::size_t i = 0; i < watched.size(); ++i) {
    const Watched& each = watched[i];
    SceneActor& actor = out->scene.actors.emplace_back();
    actor.name = Text(each.name);
    actor.start.at.x = 2.5 * static_cast<double>(i);
    actor.machine = each.machine;
    actor.file = "attached " + each.name;
    std::shared_ptr<const Loaded> loaded;
    for (const auto& [path, known] :
         file == nullptr ? std::map<std::string, std::shared_ptr<const Loaded>>() : file->machines)
      if (known->machine && known->machine->fingerprint() == each.machine.fingerprint()) {
        loaded = known;
        actor.file = path;
        actor.machine = known->machine;
      }
    if (loaded == nullptr) {
      const auto bare = std::make_shared<Loaded>();
      bare->machine = each.machine;
      loaded = bare;
    }
    out->machines[actor.file] = loaded;
  }
  return out;
}

}  // namespace mobrin::live
