// The probe: the game's side copies into a ring, a thread sends.
#include "mobrin/probe/probe.hpp"

#include <arpa/inet.h>
#include <fcntl.h>
#include <netinet/in.h>
#include <netinet/tcp.h>
#include <poll.h>
#include <sys/socket.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>
#include <chrono>
#include <mutex>
#include <thread>

#include "mobrin/pack/pack.hpp"
#include "mobrin/probe/wire.hpp"

namespace mobrin {
namespace {

using probe::Kind;
using probe::put;

constexpr std::size_t kMostShown = 64, kMostWrites = 4096, kMostAsked = 256, kMostTickets = 16;
constexpr std::uint32_t kPlacesAtOnce = 2048;

bool send_all(int socket, const std::byte* data, std::size_t size) {
  while (size > 0) {
    const ssize_t sent = send(socket, data, size, MSG_NOSIGNAL);
    if (sent <= 0) return false;
    data += sent;
    size -= static_cast<std::size_t>(sent);
  }
  return true;
}

}  // namespace

struct Probe::Shown {
  std::uint16_t id = 0;
  std::string name;
  Instance* instance = nullptr;
  Crowd* crowd = nullptr;  // one of both
  WriteHook before;
  Inside* inside = nullptr;
  std::vector<probe::Write> writes;  // since the last poll
  bool lost = false;                 // more than there was room for

  // Of a crowd: the place that is looked at, its member as an instance; a count under way.
  std::uint32_t place = 0;
  std::optional<Instance> member;
  std::vector<std::uint32_t> counts;  // by state
  std::uint32_t counted = 0, present = 0;
  Ticks next_count{};

  [[nodiscard]] const Machine& machine() const { return crowd != nullptr ? crowd->machine() : instance->machine(); }
  // Who is looked at; one that has not begun stands for nobody.
  [[nodiscard]] const Instance& looked_at() {
    if (crowd == nullptr) return *instance;
    if (!crowd->has(crowd->at(place)))
      for (std::uint32_t each = 0; each < crowd->places() && each < kPlacesAtOnce; ++each)
        if (crowd->has(crowd->at(each))) {
          place = each;
          break;
        }
    member = crowd->copy(crowd->at(place));
    if (!member) member.emplace(crowd->machine(), InstanceOptions{0, crowd->now()});
    return *member;
  }
  // Goes on counting; true when all have been.
  bool count() {
    if (crowd->now() < next_count) return false;
    if (counted == 0) counts.assign(crowd->machine().states().size(), 0), present = 0;
    const std::uint32_t end = std::min(crowd->places(), counted + kPlacesAtOnce);
    present += crowd->count_active(counted, end, counts);
    counted = end;
    if (counted < crowd->places()) return false;
    counted = 0;
    next_count = crowd->now() + seconds(1);
    return true;
  }
};

struct Probe::Inside {
  ProbeOptions options;
  std::string token;
  int listening = -1, wakes[2] = {-1, -1};
  std::uint16_t port = 0;
  std::thread thread;
  std::atomic<bool> over{false}, watched{false}, fresh{false};  // fresh: a viewer that has not got the machines yet

  // The game's.
  std::vector<std::unique_ptr<Shown>> shown;
  std::vector<std::byte> message;
  std::uint64_t frame = 0;
  std::uint16_t last_id = 0;
  bool gap = false, all_told = false;

  // Both threads': whole messages, each with its length before it.
  std::mutex lock;
  std::vector<std::byte> ring, large;  // large: machines, which come once and are not bounded by the ring
  struct Asked {
    std::uint16_t id;
    std::optional<std::uint32_t> choose;  // a member to be looked at
    probe::Write write;
  };
  std::vector<Asked> asked;

  void heard(Shown& from, const InstanceWrite& write) {
    if (!watched.load(std::memory_order_relaxed)) return;
    if (from.writes.size() >= kMostWrites) {
      from.lost = true;
      return;
    }
    probe::Write out;
    out.at = from.instance->now().count;
    out.kind = static_cast<std::uint8_t>(write.kind);
    out.index = write.state != kNoIndex ? write.state : write.input;
    if (write.kind == InstanceWrite::Kind::input) {
      const InputDef& input = from.instance->machine().inputs()[write.input];
      out.value = probe::number_of(input, from.instance->input_value(write.input));
    }
    if (write.kind == InstanceWrite::Kind::rate) out.value = write.rate;
    out.ticks = write.duration.count;
    from.writes.push_back(out);
  }

  // --- the game's side ---

  void machine_message(const Shown& one) {
    const std::vector<std::byte> packed = pack(one.machine());
    std::vector<std::byte> body;
    put(body, static_cast<std::uint8_t>(Kind::machine));
    put(body, one.id);
    put(body, static_cast<std::uint32_t>(one.name.size()));
    for (const char c : one.name) body.push_back(static_cast<std::byte>(c));
    put(body, static_cast<std::uint8_t>((options.may_write ? probe::kWritable : 0) |
                                        (one.crowd != nullptr ? probe::kIsCrowd : 0)));
    body.insert(body.end(), packed.begin(), packed.end());
    put(large, static_cast<std::uint32_t>(body.size()));
    large.insert(large.end(), body.begin(), body.end());
  }

  void carry_out() {
    for (const Asked& each : asked) {
      const auto found = std::find_if(shown.begin(), shown.end(), [&](const auto& one) { return one->id == each.id; });
      if (found == shown.end()) continue;
      if (each.choose) (*found)->place = *each.choose;
      if (each.choose || !options.may_write) continue;
      if ((*found)->crowd != nullptr) {
        write_to_member(*(*found)->crowd, (*found)->place, each.write);
        continue;
      }
      Instance& instance = *(*found)->instance;
      const Machine& machine = instance.machine();
      const probe::Write& write = each.write;
      const auto kind = static_cast<InstanceWrite::Kind>(write.kind);
      if (kind == InstanceWrite::Kind::reset) instance.reset();
      if (kind == InstanceWrite::Kind::rate) (void)instance.set_rate(write.value);
      if (kind == InstanceWrite::Kind::freeze) (void)instance.freeze(Ticks(write.ticks));
      if (kind == InstanceWrite::Kind::force && write.index < machine.states().size())
        (void)instance.force({machine.serial(), write.index});
      if (kind == InstanceWrite::Kind::place && write.index < machine.states().size())
        (void)instance.place({machine.serial(), write.index}, Ticks(write.ticks));
      if (write.index >= machine.inputs().size()) continue;
      const InputDef& input = machine.inputs()[write.index];
      if (kind == InstanceWrite::Kind::pulse) (void)instance.pulse_by_name(input.name.text);
      if (kind != InstanceWrite::Kind::input) continue;
      if (const auto value = probe::value_of(input, write.value)) (void)instance.set_by_name(input.name.text, *value);
    }
    asked.clear();
  }

  static void write_to_member(Crowd& crowd, std::uint32_t place, const probe::Write& write) {
    const Machine& machine = crowd.machine();
    const Member member = crowd.at(place);
    const auto kind = static_cast<InstanceWrite::Kind>(write.kind);
    if (kind == InstanceWrite::Kind::reset) (void)crowd.reset(member);
    if (kind == InstanceWrite::Kind::rate) (void)crowd.set_rate(member, write.value);
    if (kind == InstanceWrite::Kind::freeze) (void)crowd.freeze(member, Ticks(write.ticks));
    if (write.index >= machine.inputs().size()) return;
    const InputDef& input = machine.inputs()[write.index];
    const std::uint32_t serial = machine.serial();
    if (kind == InstanceWrite::Kind::pulse && std::holds_alternative<PulseInput>(input.kind))
      (void)crowd.pulse(member, {serial, write.index});
    if (kind != InstanceWrite::Kind::input) return;
    if (std::holds_alternative<BoolInput>(input.kind))
      (void)crowd.set(member, Input<bool>{serial, write.index}, write.value != 0);
    else if (std::holds_alternative<FloatInput>(input.kind))
      (void)crowd.set(member, Input<float>{serial, write.index}, static_cast<float>(write.value));
    else if (!(write.value >= -2147483648.0 && write.value <= 2147483647.0))
      return;
    else if (std::holds_alternative<IntInput>(input.kind))
      (void)crowd.set(member, Input<std::int32_t>{serial, write.index}, static_cast<std::int32_t>(write.value));
    else if (const auto* choice = std::get_if<ChoiceInput>(&input.kind);
             choice != nullptr && write.value >= 0 && write.value < static_cast<double>(choice->choices.size()))
      (void)crowd.set(member, Input<Choice>{serial, write.index}, Choice{static_cast<std::uint8_t>(write.value)});
  }

  void tell_counts(const Shown& one) {
    message.clear();
    put(message, std::uint32_t{0});
    put(message, static_cast<std::uint8_t>(Kind::counts));
    put(message, one.id);
    put(message, one.present);
    put(message, one.crowd->places());
    const auto some = std::count_if(one.counts.begin(), one.counts.end(), [](std::uint32_t n) { return n > 0; });
    put(message, static_cast<std::uint16_t>(some));
    for (std::size_t state = 0; state < one.counts.size(); ++state) {
      if (one.counts[state] == 0) continue;
      put(message, static_cast<std::uint16_t>(state));
      put(message, one.counts[state]);
    }
    measure();
  }
  // Writes the message's length before it.
  void measure() {
    const auto length = static_cast<std::uint32_t>(message.size() - 4);
    for (std::size_t i = 0; i < 4; ++i) message[i] = static_cast<std::byte>(length >> (8 * i) & 255);
  }

  void tell_frame() {
    message.clear();
    put(message, std::uint32_t{0});
    put(message, static_cast<std::uint8_t>(Kind::frame));
    put(message, ++frame);
    bool lost = gap;
    for (const auto& one : shown) lost = lost || one->lost;
    put(message, static_cast<std::uint8_t>(lost ? 1 : 0));
    put(message, static_cast<std::uint16_t>(shown.size()));
    for (const auto& one : shown) {
      const Instance& instance = one->looked_at();
      put(message, one->id);
      put(message, one->crowd != nullptr && one->crowd->has(one->crowd->at(one->place)) ? one->place : probe::kNobody);
      TicketInfo tickets[kMostTickets];
      const std::size_t held = instance.open_tickets(tickets);
      put(message, static_cast<std::uint8_t>(held));
      for (std::size_t i = 0; i < held; ++i)
        put(message, probe::OpenTicket{tickets[i].status, tickets[i].pulse, tickets[i].state});
      put(message, static_cast<std::uint32_t>(one->writes.size()));
      for (const probe::Write& write : one->writes) put(message, write);
      const std::size_t size = instance.machine().block_size();
      put(message, static_cast<std::uint32_t>(size));
      const auto block = instance.block().first(size);
      message.insert(message.end(), block.begin(), block.end());
      one->writes.clear();
      one->lost = false;
    }
    measure();
  }

  // --- the thread's side ---

  // Waits for a socket, or until woken: whether there is something to read from it. A wake is used up, so that one that
  // came too late for its viewer is not taken for somebody who comes.
  bool wait(int socket, int milliseconds) const {
    pollfd both[2] = {{socket, POLLIN, 0}, {wakes[0], POLLIN, 0}};
    (void)::poll(both, 2, milliseconds);
    char drained[64];
    if ((both[1].revents & POLLIN) != 0 && read(wakes[0], drained, sizeof drained) < 0) return false;
    return both[0].revents != 0;
  }

  void serve() {
    while (!over) {
      if (!wait(listening, -1)) continue;
      const int viewer = accept4(listening, nullptr, nullptr, SOCK_CLOEXEC);  // does not wait: who came may have gone
      if (viewer < 0) continue;
      const timeval patience{2, 0};
      (void)setsockopt(viewer, SOL_SOCKET, SO_SNDTIMEO, &patience, sizeof patience);
      const int on = 1;
      (void)setsockopt(viewer, IPPROTO_TCP, TCP_NODELAY, &on, sizeof on);
      if (greeted(viewer)) watch(viewer);
      watched = false;
      close(viewer);
    }
  }

  // Within two seconds in all, however slowly it comes.
  [[nodiscard]] bool greeted(int viewer) const {
    using Clock = std::chrono::steady_clock;
    const Clock::time_point until = Clock::now() + std::chrono::seconds(2);
    const std::string wanted = std::string(probe::kGreeting) + token + "\n";
    std::string got;
    while (got.size() < wanted.size()) {
      const auto left = std::chrono::duration_cast<std::chrono::milliseconds>(until - Clock::now()).count();
      if (over || left <= 0) return false;
      if (!wait(viewer, static_cast<int>(left))) continue;
      char c = 0;
      if (recv(viewer, &c, 1, MSG_DONTWAIT) != 1) return false;
      got += c;
    }
    return probe::same_secret(got, wanted);
  }

  void watch(int viewer) {
    {
      const std::lock_guard held(lock);
      ring.clear();
      large.clear();
      asked.clear();
    }
    fresh = true;
    watched = true;
    std::vector<std::byte> sending, received;
    while (!over) {
      {
        const std::lock_guard held(lock);
        sending.swap(large);
        large.clear();
        sending.insert(sending.end(), ring.begin(), ring.end());
        ring.clear();
      }
      if (!sending.empty() && !send_all(viewer, sending.data(), sending.size())) return;
      sending.clear();
      if (!wait(viewer, 100)) continue;
      std::byte bytes[4096];
      const ssize_t got = recv(viewer, bytes, sizeof bytes, MSG_DONTWAIT);
      if (got <= 0) return;
      received.insert(received.end(), bytes, bytes + got);
      if (!take_asked(received)) return;
    }
  }

  // Whole messages of the viewer; false where they make no sense.
  bool take_asked(std::vector<std::byte>& received) {
    constexpr std::size_t kWriteLength = 1 + 2 + probe::kWriteBytes, kChooseLength = 1 + 2 + 4;
    while (received.size() >= 4 + kChooseLength) {
      probe::Taker taker(received.data(), received.size());
      const auto length = taker.take<std::uint32_t>();
      const auto kind = static_cast<Kind>(taker.take<std::uint8_t>());
      if (!(kind == Kind::write && length == kWriteLength) && !(kind == Kind::choose && length == kChooseLength))
        return false;
      if (received.size() < 4 + length) return true;
      Asked one;
      one.id = taker.take<std::uint16_t>();
      if (kind == Kind::choose)
        one.choose = taker.take<std::uint32_t>();
      else
        one.write = taker.write();
      const std::lock_guard held(lock);
      if (asked.size() < kMostAsked) asked.push_back(one);
      received.erase(received.begin(), received.begin() + 4 + static_cast<std::ptrdiff_t>(length));
    }
    return true;
  }

  void wake() const {
    const char one = 1;
    if (::write(wakes[1], &one, 1) < 0) return;  // full: it wakes anyway
  }
};

Probe::Probe(ProbeOptions options) : inside_(std::make_unique<Inside>()) {
  Inside& in = *inside_;
  in.options = options;
  in.token = probe::random_secret();
  in.listening = socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0);
  const int on = 1;
  (void)setsockopt(in.listening, SOL_SOCKET, SO_REUSEADDR, &on, sizeof on);
  sockaddr_in address{};
  address.sin_family = AF_INET;
  address.sin_port = htons(options.port);
  address.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  socklen_t size = sizeof address;
  if (in.token.empty() || in.listening < 0 ||
      bind(in.listening, reinterpret_cast<sockaddr*>(&address), sizeof address) != 0 || listen(in.listening, 4) != 0 ||
      getsockname(in.listening, reinterpret_cast<sockaddr*>(&address), &size) != 0 ||
      pipe2(in.wakes, O_CLOEXEC | O_NONBLOCK) != 0) {
    error_ = "port " + std::to_string(options.port) + " of 127.0.0.1 cannot be listened at";
    if (in.listening >= 0) close(in.listening);
    in.listening = -1;
    return;
  }
  in.port = ntohs(address.sin_port);
  in.message.reserve(std::size_t{64} << 10);
  in.ring.reserve(options.ring);
  in.thread = std::thread([&in] { in.serve(); });
}

Probe::~Probe() {
  Inside& in = *inside_;
  while (!in.shown.empty()) hide(in.shown.back()->name);
  in.over = true;
  if (in.listening >= 0) {
    in.wake();
    in.thread.join();
    close(in.listening);
    close(in.wakes[0]);
    close(in.wakes[1]);
  }
}

std::string Probe::address() const {
  if (inside_->listening < 0) return "";
  return "127.0.0.1:" + std::to_string(inside_->port) + "/" + inside_->token;
}

bool Probe::watched() const { return inside_->watched; }

Probe::Shown* Probe::add(std::string_view name) {
  hide(name);
  Inside& in = *inside_;
  if (in.shown.size() >= kMostShown || name.size() > 1000) return nullptr;
  Shown& one = *in.shown.emplace_back(std::make_unique<Shown>());
  one.id = ++in.last_id;
  one.name = name;
  one.inside = &in;
  in.all_told = false;
  return &one;
}

bool Probe::show(std::string_view name, Instance& instance) {
  Shown* const one = add(name);
  if (one == nullptr) return false;
  one->instance = &instance;
  one->before = instance.write_hook();
  one->writes.reserve(64);
  instance.set_write_hook({[](void* context, const InstanceWrite& write) {
                             auto& self = *static_cast<Shown*>(context);
                             if (self.before.call != nullptr) self.before.call(self.before.context, write);
                             self.inside->heard(self, write);
                           },
                           one});
  return true;
}

bool Probe::show(std::string_view name, Crowd& crowd) {
  Shown* const one = add(name);
  if (one == nullptr) return false;
  one->crowd = &crowd;
  return true;
}

void Probe::hide(std::string_view name) {
  auto& all = inside_->shown;
  const auto found = std::find_if(all.begin(), all.end(), [&](const auto& one) { return one->name == name; });
  if (found == all.end()) return;
  if ((*found)->instance != nullptr) (*found)->instance->set_write_hook((*found)->before);
  all.erase(found);
}

void Probe::poll() {
  Inside& in = *inside_;
  if (!in.watched.load(std::memory_order_acquire)) {
    in.all_told = false;
    return;
  }
  const std::unique_lock held(in.lock, std::try_to_lock);
  if (!held.owns_lock()) {  // it is being sent just now
    in.gap = true;
    for (const auto& one : in.shown) one->writes.clear();
    return;
  }
  in.carry_out();
  if (in.fresh.exchange(false) || !in.all_told) {
    for (const auto& one : in.shown) in.machine_message(*one);
    for (const auto& one : in.shown) one->writes.clear();
    in.all_told = true;
    in.gap = true;  // what came before is not known
  }
  in.tell_frame();
  if (in.ring.size() + in.message.size() > in.options.ring) {
    in.gap = true;
    return;
  }
  in.ring.insert(in.ring.end(), in.message.begin(), in.message.end());
  in.gap = false;
  for (const auto& one : in.shown) {
    if (one->crowd == nullptr || !one->count()) continue;
    in.tell_counts(*one);
    if (in.ring.size() + in.message.size() <= in.options.ring)
      in.ring.insert(in.ring.end(), in.message.begin(), in.message.end());
  }
  in.wake();
}

}  // namespace mobrin
