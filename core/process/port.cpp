#include "core/process/port.hpp"

#include <arpa/inet.h>
#include <netinet/in.h>
#include <sys/socket.h>
#include <unistd.h>

namespace envar::process {

unsigned free_udp_port() {
    const int socket = ::socket(AF_INET, SOCK_DGRAM | SOCK_CLOEXEC, 0);
    if (socket < 0) return 0;
    sockaddr_in address{};
    address.sin_family = AF_INET;
    address.sin_addr.s_addr = htonl(INADDR_ANY);
    socklen_t size = sizeof address;
    unsigned port = 0;
    // The sockets interface speaks of addresses by a general type.
    auto* general = reinterpret_cast<sockaddr*>(&address);  // NOLINT(cppcoreguidelines-pro-type-reinterpret-cast)
    if (::bind(socket, general, size) == 0 && ::getsockname(socket, general, &size) == 0)
        port = ntohs(address.sin_port);
    ::close(socket);
    return port;
}

}  // namespace envar::process
