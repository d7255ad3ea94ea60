// The viewer's end of a probe: reads its messages and makes sense of them.
#include "attach.hpp"

#include <arpa/inet.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>

#include "mobrin/pack/pack.hpp"

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
  if (kind == InstanceWrite::Kind::place && write.index < machine.states().size()) {
    out.place = Text(machine.states()[write.index].path);
    out.played = Ticks(write.ticks);
    return out;
  }
  return std::nullopt;
}

}  // namespace

// One that is shown, with its state as it came last.
struct Attach::Known {
  Watched is;
  Instance state;
  WatchedNote note{};
  bool apart = false;  // its clock is another one

  [[nodiscard]] std::vector<FieldValue> inputs() const {
    std::vector<FieldValue> out;
    for (std::uint16_t i = 0; i < is.machine.inputs().size(); ++i) out.push_back(state.input_value(i));
    return out;
  }
};

Attach::Attach(int socket) : socket_(socket) {}

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
  return over(socket);
}

std::unique_ptr<Attach> Attach::over(int socket) {
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
  return together();
}

void Attach::listen(Listener listener) {
  const std::lock_guard held(lock_);
  listener_ = std::move(listener);
  if (whole_) listener_.machines(together(), group_);
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
  if (kind == probe::Kind::machine) return take_machine(taker);
  if (kind == probe::Kind::counts) return take_counts(taker);
  return kind == probe::Kind::frame && take_frame(taker);
}

bool Attach::take_machine(probe::Taker& taker) {
  const auto id = taker.take<std::uint16_t>();
  const auto length = taker.take<std::uint32_t>();
  const std::byte* name = taker.bytes(length);
  const auto is = taker.take<std::uint8_t>();
  const std::size_t left = taker.left();
  const std::byte* packed = taker.bytes(left);
  if (!taker.sound() || name == nullptr) return false;
  auto machine = load_pack({packed, left});
  if (!machine) return false;
  if (whole_) known_.clear(), whole_ = false;  // all come anew
  Instance state(*machine);
  known_.push_back({{id, std::string(reinterpret_cast<const char*>(name), length), std::move(*machine),
                     (is & probe::kWritable) != 0, (is & probe::kIsCrowd) != 0},
                    std::move(state)});
  return true;
}

bool Attach::take_counts(probe::Taker& taker) {
  const auto id = taker.take<std::uint16_t>();
  WatchedNote read;
  read.members = taker.take<std::uint32_t>();
  read.places = taker.take<std::uint32_t>();
  const auto count = taker.take<std::uint16_t>();
  for (std::uint32_t i = 0; i < count && taker.sound(); ++i) {
    const auto state = taker.take<std::uint16_t>();
    read.counts.emplace_back(state, taker.take<std::uint32_t>());
  }
  for (Known& each : known_) {
    if (each.is.id != id) continue;
    each.note.members = read.members;
    each.note.places = read.places;
    each.note.counts = std::move(read.counts);
    std::erase_if(each.note.counts, [&](const auto& one) { return one.first >= each.is.machine.states().size(); });
  }
  return taker.sound();
}

// One entry of a frame: whose it is, and what was written to it.
bool Attach::take_one(probe::Taker& taker, std::size_t& index, std::vector<SessionWrite>& writes) {
  const auto id = taker.take<std::uint16_t>();
  const auto of = std::find_if(known_.begin(), known_.end(), [&](const Known& each) { return each.is.id == id; });
  if (of == known_.end()) return false;
  index = static_cast<std::size_t>(of - known_.begin());
  const Ticks before = of->state.now();
  const auto place = taker.take<std::uint32_t>();
  const bool other = place != of->note.place;
  of->note.place = place;
  of->note.tickets.clear();
  const auto tickets = taker.take<std::uint8_t>();
  for (std::uint32_t i = 0; i < tickets; ++i) of->note.tickets.push_back(taker.ticket());
  const auto count = taker.take<std::uint32_t>();
  const auto add = [&](Ticks at, TapeStep step) {
    SessionWrite& out = writes.emplace_back();
    out.at = at;
    out.step = std::move(step);
  };
  for (std::uint32_t w = 0; w < count && taker.sound(); ++w) {
    const probe::Write write = taker.write();
    if (auto step = step_of(of->is.machine, write)) add(Ticks(write.at), std::move(*step));
  }
  const auto size = taker.take<std::uint32_t>();
  const std::byte* block = taker.bytes(size);
  if (block == nullptr || size != of->is.machine.block_size()) return false;
  // A crowd does not say what is written to a member: what its inputs hold now was written after the step before.
  const bool compares = of->is.crowd && !other;
  const std::vector<FieldValue> inputs = compares ? of->inputs() : std::vector<FieldValue>();
  std::vector<std::byte> whole(of->state.block().begin(), of->state.block().end());
  std::copy_n(block, size, whole.begin());
  if (!of->state.restore(whole)) return false;
  if (compares) {
    const std::vector<FieldValue> now = of->inputs();
    TapeStep step;
    for (std::size_t i = 0; i < now.size(); ++i) {
      if (now[i] == inputs[i]) continue;
      const InputDef& input = of->is.machine.inputs()[i];
      if (!std::holds_alternative<PulseInput>(input.kind))
        step.set.emplace_back(input.name, now[i]);
      else if (now[i] == FieldValue(true))
        step.pulses.push_back(input.name);
    }
    if (!step.set.empty() || !step.pulses.empty()) add(before, std::move(step));
  }
  return taker.sound();
}

bool Attach::take_frame(probe::Taker& taker) {
  WatchedFrame frame;
  (void)taker.take<std::uint64_t>();
  frame.gap = taker.take<std::uint8_t>() != 0;
  const auto count = taker.take<std::uint16_t>();
  std::vector<std::vector<SessionWrite>> writes(known_.size());
  std::vector<bool> there(known_.size());
  for (std::uint32_t i = 0; i < count; ++i) {
    std::size_t index = 0;
    std::vector<SessionWrite> its;
    if (!take_one(taker, index, its)) return false;
    writes[index] = std::move(its);
    there[index] = true;
  }
  if (std::find(there.begin(), there.end(), false) != there.end()) return false;
  if (known_.empty()) return true;
  // Those of one clock are looked at together. Who once had another stays apart, until it is asked for.
  auto lead = std::find_if(known_.begin(), known_.end(), [&](const Known& each) { return each.is.name == lead_; });
  if (lead == known_.end()) lead = known_.begin();
  bool changed = !whole_ || std::exchange(asked_, false);
  if (changed)
    for (Known& each : known_) each.apart = false;
  for (std::size_t i = 0; i < known_.size(); ++i) {
    Known& each = known_[i];
    if (!each.apart && each.state.now() != lead->state.now()) each.apart = changed = true;
    if (each.apart) {
      frame.elsewhere.emplace_back(each.is.name, each.state.now());
      continue;
    }
    for (SessionWrite& write : writes[i]) {
      write.actor = static_cast<std::uint32_t>(frame.blocks.size());
      frame.writes.push_back(std::move(write));
    }
    frame.blocks.emplace_back(each.state.block().begin(),
                              each.state.block().begin() + static_cast<std::ptrdiff_t>(each.is.machine.block_size()));
    frame.notes.push_back(each.note);
  }
  std::stable_sort(frame.writes.begin(), frame.writes.end(),
                   [](const SessionWrite& a, const SessionWrite& b) { return a.at < b.at; });
  group_ += changed ? 1 : 0;
  frame.group = group_;
  whole_ = true;
  if (changed) {
    came_.notify_all();
    if (listener_.machines) listener_.machines(together(), group_);
  }
  if (listener_.frame)
    listener_.frame(std::move(frame));
  else if (early_.size() < 1000)
    early_.push_back(std::move(frame));
  return true;
}

std::vector<Watched> Attach::together() const {
  std::vector<Watched> out;
  for (const Known& each : known_)
    if (!each.apart) out.push_back(each.is);
  return out;
}

bool Attach::choose(const Watched& crowd, std::uint32_t place) {
  std::vector<std::byte> out;
  probe::put(out, std::uint32_t{1 + 2 + 4});
  probe::put(out, static_cast<std::uint8_t>(probe::Kind::choose));
  probe::put(out, crowd.id);
  probe::put(out, place);
  return send(socket_, out.data(), out.size(), MSG_NOSIGNAL) == static_cast<ssize_t>(out.size());
}

void Attach::look_at(const std::string& name) {
  const std::lock_guard held(lock_);
  lead_ = name;
  asked_ = true;
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
  if (step.place)
    if (const auto state = to.machine.state(step.place->text))
      add(InstanceWrite::Kind::place, state->index, 0, step.played);
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
