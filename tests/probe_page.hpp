// A page's end of the wire to a game that runs here.
#pragma once

#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

#include <charconv>
#include <string>

#include "mobrin/probe/probe.hpp"
#include "mobrin/probe/wire.hpp"

namespace mobrin::test {

// What a page says first to this game.
inline std::string greeting_for(const Probe& game) {
  const std::string address = game.address();
  return std::string(probe::kGreeting) + address.substr(address.find('/') + 1) + "\n";
}

// A connection to it, to be closed; -1 where there is none.
inline int page_at(const Probe& game) {
  const std::string address = game.address();
  sockaddr_in to{};
  std::uint16_t port = 0;
  (void)std::from_chars(address.data() + address.find(':') + 1, address.data() + address.find('/'), port);
  to.sin_family = AF_INET;
  to.sin_port = htons(port);
  to.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
  const int page = socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
  if (connect(page, reinterpret_cast<const sockaddr*>(&to), sizeof to) == 0) return page;
  close(page);
  return -1;
}

}  // namespace mobrin::test
