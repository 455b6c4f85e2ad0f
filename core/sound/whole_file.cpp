#include "core/sound/whole_file.h"

#include <fcntl.h>
#include <signal.h>
#include <sys/random.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <filesystem>
#include <memory>
#include <utility>

namespace heft {
namespace {

namespace fs = std::filesystem;

constexpr const char* kPrefix = ".heft-part-";
constexpr int kTries = 16;

// Processes of different machines may share a folder: foreign process ids mean nothing here.
std::string thisHost() {
  std::array<char, 256> name{};
  gethostname(name.data(), name.size() - 1);
  uint32_t hash = 2166136261u;  // FNV-1a
  for (const char* c = name.data(); *c; ++c) hash = (hash ^ static_cast<unsigned char>(*c)) * 16777619u;
  std::array<char, 9> text{};
  std::snprintf(text.data(), text.size(), "%08x", hash);
  return text.data();
}

std::string ownPrefix() {
  return kPrefix + thisHost() + "-";
}

std::string freshName() {
  uint64_t random = 0;
  if (getrandom(&random, sizeof random, 0) != static_cast<ssize_t>(sizeof random)) return {};
  std::array<char, 64> text{};
  std::snprintf(text.data(), text.size(), "%ld-%016llx", static_cast<long>(getpid()),
                static_cast<unsigned long long>(random));
  return ownPrefix() + text.data();
}

struct Unfinished {
  int fd = -1;
  std::string path;
};

Unfinished startBeside(const std::string& path) {
  Unfinished out;
  for (int i = 0; i < kTries && out.fd < 0; ++i) {
    const std::string name = freshName();
    if (name.empty()) break;
    out.path = (fs::path(path).parent_path() / name).string();
    out.fd = open(out.path.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW | O_CLOEXEC, 0666);
    if (out.fd < 0 && errno != EEXIST) break;
  }
  return out;
}

int writeAll(int fd, const std::string& bytes) {
  size_t done = 0;
  while (done < bytes.size()) {
    const ssize_t wrote = write(fd, bytes.data() + done, bytes.size() - done);
    if (wrote < 0 && errno != EINTR) return errno;
    if (wrote > 0) done += static_cast<size_t>(wrote);
  }
  return 0;
}

// The new name survives a power cut only once its folder is on the disk; some file systems refuse, and then
// nothing helps.
// there is nothing to be done.
void flushFolderOf(const std::string& path) {
  const fs::path folder = fs::path(path).parent_path();
  const int fd = open(folder.empty() ? "." : folder.c_str(), O_RDONLY | O_DIRECTORY | O_CLOEXEC);
  if (fd < 0) return;
  fsync(fd);
  close(fd);
}

bool isRunning(long process) {
  return process <= 0 || kill(static_cast<pid_t>(process), 0) == 0 || errno == EPERM;
}

Error cannot(ErrorKind kind, const std::string& path, const char* what, int code) {
  return {kind, path, std::string("cannot be ") + what + ": " + std::strerror(code)};
}

}  // namespace

Result<std::string> readBytes(const std::string& path, uint64_t limit, Links links) {
  // Non-blocking: a pipe of that name would never end.
  const int flags = O_RDONLY | O_CLOEXEC | O_NONBLOCK | (links == Links::Refused ? O_NOFOLLOW : 0);
  const int fd = open(path.c_str(), flags);
  if (fd < 0 && errno == ELOOP && links == Links::Refused)
    return unreadable(path, "is a symbolic link; use the real file");
  if (fd < 0) return Fail(cannot(ErrorKind::Unreadable, path, "opened", errno));
  const std::unique_ptr<FILE, int (*)(FILE*)> file(fdopen(fd, "rb"), &std::fclose);
  struct stat info {};
  if (!file || fstat(fd, &info) != 0) return Fail(cannot(ErrorKind::Unreadable, path, "opened", errno));
  if (S_ISDIR(info.st_mode)) return unreadable(path, "is a folder; name a file");
  if (!S_ISREG(info.st_mode)) return unreadable(path, "is not a regular file");
  if (static_cast<uint64_t>(info.st_size) > limit)
    return unreadable(path, "is larger than Heft reads; use a shorter file");
  std::string bytes(static_cast<size_t>(info.st_size), '\0');
  bytes.resize(std::fread(bytes.data(), 1, bytes.size(), file.get()));
  return bytes;
}

Result<void> writeWhole(const std::string& path, const std::string& bytes) {
  return writeAllWhole({{path, &bytes}});
}

namespace {

// One of several targets, from its bytes beside it to its name.
class Replacement {
 public:
  explicit Replacement(const FileBytes& file) : file_(&file) {}
  Replacement(Replacement&& other) noexcept
      : file_(other.file_), beside_(std::exchange(other.beside_, {})), kept_(std::exchange(other.kept_, {})) {}
  ~Replacement() {
    if (!beside_.empty()) unlink(beside_.c_str());
    if (!kept_.empty()) unlink(kept_.c_str());
  }
  Result<void> write() {
    const std::string& path = file_->path;
    struct stat info {};
    if (stat(path.c_str(), &info) == 0 && S_ISDIR(info.st_mode))
      return unwritable(path, "is a folder; name a file");
    if (stat(path.c_str(), &info) == 0 && !S_ISREG(info.st_mode))
      return unwritable(path, "is not a regular file");
    const Unfinished beside = startBeside(path);
    if (beside.fd < 0) return Fail(cannot(ErrorKind::Unwritable, path, "written", errno));
    beside_ = beside.path;
    Result<void> own;
    int code = 0;
    if (file_->write)
      own = file_->write(beside.fd);
    else
      code = writeAll(beside.fd, *file_->bytes);
    if (own && code == 0 && fsync(beside.fd) != 0) code = errno;
    if (close(beside.fd) != 0 && code == 0) code = errno;
    if (!own) return unwritable(path, own.error().reason);
    if (code != 0) return Fail(cannot(ErrorKind::Unwritable, path, "written", code));
    return {};
  }
  // The former file keeps a second name until all are done; where links cannot be made it is replaced at
  // once.
  Result<void> take(bool keepsOld) {
    const std::string second = (fs::path(file_->path).parent_path() / freshName()).string();
    if (keepsOld && link(file_->path.c_str(), second.c_str()) == 0) kept_ = second;
    if (rename(beside_.c_str(), file_->path.c_str()) != 0)
      return Fail(cannot(ErrorKind::Unwritable, file_->path, "written", errno));
    beside_.clear();
    return {};
  }
  void undo() {
    if (!kept_.empty() && rename(kept_.c_str(), file_->path.c_str()) == 0)
      kept_.clear();
    else if (beside_.empty())
      unlink(file_->path.c_str());
  }

 private:
  const FileBytes* file_;
  std::string beside_, kept_;
};

}  // namespace

Result<void> writeAllWhole(const std::vector<FileBytes>& files) {
  std::vector<Replacement> all;
  for (const FileBytes& file : files) {
    all.emplace_back(file);
    if (auto wrote = all.back().write(); !wrote) return wrote;
  }
  for (size_t i = 0; i < all.size(); ++i)
    if (auto taken = all[i].take(all.size() > 1); !taken) {
      while (i-- > 0) all[i].undo();
      return taken;
    }
  for (const FileBytes& file : files) flushFolderOf(file.path);
  return {};
}

Result<MadeFolder> MadeFolder::at(const std::string& folder) {
  MadeFolder out;
  std::error_code code;
  fs::path whole(folder);
  if (!whole.has_filename()) whole = whole.parent_path();
  for (fs::path p = whole; !p.empty() && !fs::exists(p, code); p = p.parent_path())
    out.fresh_.push_back(p.string());
  fs::create_directories(whole, code);
  if (code) return unwritable(folder, "the folder cannot be made: " + code.message());
  if (!fs::is_directory(whole, code)) return unwritable(folder, "is not a folder");
  return out;
}

MadeFolder::~MadeFolder() {
  for (const std::string& folder : fresh_)
    if (rmdir(folder.c_str()) != 0) return;
}

void sweepUnfinished(const std::string& folder) {
  std::error_code code;
  const std::string mine = ownPrefix();
  for (fs::directory_iterator at(folder, code), end; !code && at != end; at.increment(code)) {
    const std::string name = at->path().filename().string();
    if (name.rfind(mine, 0) != 0) continue;
    const long process = std::strtol(name.c_str() + mine.size(), nullptr, 10);
    std::error_code ignored;
    if (!isRunning(process)) fs::remove(at->path(), ignored);
  }
}

std::string freePath(const std::string& folder, const std::string& name, const std::string& extension) {
  namespace fs = std::filesystem;
  std::error_code code;
  fs::path out = fs::path(folder) / (name + extension);
  for (int n = 2; fs::exists(out, code); ++n)
    out = fs::path(folder) / (name + " " + std::to_string(n) + extension);
  return out.string();
}

}  // namespace heft
