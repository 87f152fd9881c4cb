#include "exchange/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <random>

namespace conduit {
namespace {

// Names of what is being written: host and process, so that a later save knows what a killed one left behind,
// and a number that nobody can guess.
std::string partPrefix() {
  return fmt::format(".level-conduit-{:x}-", static_cast<unsigned long>(::gethostid()) & 0xffffffffUL);
}

void tidy(const std::filesystem::path& folder) {
  const std::string prefix = partPrefix();
  std::error_code error;
  int seen = 0;
  for (auto it = std::filesystem::directory_iterator(folder, error);
       !error && it != std::filesystem::directory_iterator() && ++seen < 10000; it.increment(error)) {
    const std::string name = it->path().filename().string();
    if (!name.starts_with(prefix) || !name.ends_with(".part")) continue;
    const long process = std::strtol(name.c_str() + prefix.size(), nullptr, 10);
    struct stat state {};
    if (process <= 0 || ::lstat(it->path().c_str(), &state) != 0 || !S_ISREG(state.st_mode) ||
        state.st_uid != ::geteuid())
      continue;
    if (::kill(static_cast<pid_t>(process), 0) != 0 && errno == ESRCH) ::unlink(it->path().c_str());
  }
}

// Where a chain of links leads in the end, whether anything is there or not.
std::filesystem::path behindLinks(std::filesystem::path file) {
  std::error_code error;
  for (int hops = 0; hops < 40 && std::filesystem::is_symlink(file, error); ++hops) {
    const auto target = std::filesystem::read_symlink(file, error);
    if (error) break;
    file = target.is_absolute() ? target : file.parent_path() / target;
  }
  return file;
}

}  // namespace

Result<bool> writeWhole(const std::filesystem::path& asked, std::string_view text) {
  const std::filesystem::path file = behindLinks(asked);
  const std::filesystem::path folder =
      file.has_parent_path() ? file.parent_path() : std::filesystem::path(".");
  auto refused = [&](const std::string& why) {
    return tl::unexpected(Problem{
        {},
        fmt::format("{} could not be written: {}. The file on disk is unchanged", asked.string(), why),
        {}});
  };
  struct stat old {};
  const bool exists = ::stat(file.c_str(), &old) == 0;
  if (!exists && errno != ENOENT) return refused(std::strerror(errno));
  if (exists && !S_ISREG(old.st_mode))
    return refused(S_ISDIR(old.st_mode) ? "it is a folder" : "it is not a regular file");
  if (exists && ((old.st_mode & 0222) == 0 || ::access(file.c_str(), W_OK) != 0))
    return refused("it is read-only; save under another name, or allow writing");
  tidy(folder);
  std::filesystem::path beside;
  int fd = -1;
  std::random_device chance;
  for (int attempt = 0; fd < 0 && attempt < 100; ++attempt) {
    beside = folder / fmt::format("{}{}-{:08x}{:08x}.part", partPrefix(), ::getpid(), chance(), chance());
    fd = ::open(beside.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666);
    if (fd < 0 && errno != EEXIST) break;
  }
  auto failed = [&](const char* what) {
    const std::string why = std::strerror(errno);
    if (fd >= 0) {
      ::close(fd);
      ::unlink(beside.c_str());
    }
    return tl::unexpected(Problem{
        {},
        fmt::format("{} could not be {}: {}. The file on disk is unchanged", asked.string(), what, why),
        {}});
  };
  if (fd < 0) return failed("written");
  if (exists) {
    // Without the right to give files away the owner becomes who saves; the group is kept where that is
    // allowed.
    if ((old.st_uid != ::geteuid() || old.st_gid != ::getegid()) && ::fchown(fd, old.st_uid, old.st_gid) != 0)
      (void)!::fchown(fd, static_cast<uid_t>(-1), old.st_gid);
    if (::fchmod(fd, old.st_mode & 07777) != 0) return failed("given its permissions");
  }
  for (std::size_t done = 0; done < text.size();) {
    const ssize_t n = ::write(fd, text.data() + done, text.size() - done);
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) return failed("written");
    done += static_cast<std::size_t>(n);
  }
  if (::fsync(fd) != 0) return failed("written to disk");
  if (::rename(beside.c_str(), file.c_str()) != 0) return failed("renamed into place");
  ::close(fd);
  if (const int in = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
      in >= 0) {  // so that the new name outlives a loss of power
    (void)::fsync(in);
    ::close(in);
  }
  return true;
}

}  // namespace conduit
