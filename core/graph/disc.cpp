#include "core/graph/disc.h"

#include <fcntl.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <fstream>

#include "core/base/half_written.h"

namespace loom {

Result<std::string> read_file(const std::filesystem::path& path, std::size_t most) {
  std::error_code code;
  if (std::filesystem::is_directory(path, code)) return Error{path.string(), "is a folder", "Name a file"};
  std::ifstream in(path, std::ios::binary);
  if (!in)
    return Error{path.string(), std::string("cannot be opened: ") + std::strerror(errno),
                 "Check the name and the rights"};
  std::string bytes;
  char block[65536];
  while (in.read(block, sizeof block) || in.gcount() > 0) {
    bytes.append(block, static_cast<std::size_t>(in.gcount()));
    if (bytes.size() > most)
      return Error{path.string(), "is larger than " + std::to_string(most >> 20) + " MiB", "It is refused for safety"};
  }
  return bytes;
}

Result<Done> write_file(const std::filesystem::path& path, std::string_view bytes) {
  const std::string temporary = half_written(path).string();
  const auto failed = [&](const char* what) {
    const Error e{path.string(), std::string(what) + ": " + std::strerror(errno),
                  "Choose another folder, or make room; nothing was changed"};
    ::unlink(temporary.c_str());
    return e;
  };
  const int file = ::open(temporary.c_str(), O_WRONLY | O_CREAT | O_TRUNC | O_CLOEXEC, 0644);
  if (file < 0) return failed("cannot be written");
  for (std::size_t done = 0; done < bytes.size();) {
    const ssize_t n = ::write(file, bytes.data() + done, bytes.size() - done);
    if (n < 0) {
      ::close(file);
      return failed("cannot be written");
    }
    done += static_cast<std::size_t>(n);
  }
  if (::fsync(file) != 0 || ::close(file) != 0) return failed("cannot be written");
  if (::rename(temporary.c_str(), path.c_str()) != 0) return failed("cannot be replaced");
  return Done{};
}

}  // namespace loom
