#include "exchange/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

namespace conduit {

Result<bool> writeWhole(const std::filesystem::path& file, std::string_view text) {
  const std::filesystem::path beside = file.string() + fmt::format(".{}.part", ::getpid());
  auto failed = [&](const char* what) {
    const std::string why = std::strerror(errno);
    ::unlink(beside.c_str());
    return tl::unexpected(Problem{{}, fmt::format("{} could not be {}: {}. The file on disk is as it was", file.string(), what, why), {}});
  };
  const int fd = ::open(beside.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (fd < 0) return failed("written");
  std::size_t done = 0;
  while (done < text.size()) {
    const ssize_t n = ::write(fd, text.data() + done, text.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) {
      ::close(fd);
      return failed("written");
    }
    done += static_cast<std::size_t>(n);
  }
  if (::fsync(fd) != 0) {
    ::close(fd);
    return failed("written to disk");
  }
  ::close(fd);
  if (::rename(beside.c_str(), file.c_str()) != 0) return failed("put in its place");
  return true;
}

}  // namespace conduit
