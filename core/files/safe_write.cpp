#include "core/files/safe_write.h"

#include <fcntl.h>
#include <fmt/core.h>
#include <linux/fs.h>
#include <signal.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstring>
#include <fstream>
#include <regex>
#include <sstream>

namespace gq::files {
namespace fs = std::filesystem;
namespace {

tl::unexpected<Error> systemError(const fs::path& file, int code) {
    using K = Error::Kind;
    if (code == ENOSPC || code == EDQUOT)
        return fail(K::DiskFull, "the disk is full", file.string(),
                    "Free some space or choose another folder, then try again.");
    if (code == EACCES || code == EPERM || code == EROFS)
        return fail(K::NoPermission, "this folder cannot be written to", file.string(),
                    "Choose another folder or change its permissions.");
    return fail(K::Unreadable, std::strerror(code), file.string(),
                "Check the disk and the folder, then try again.");
}

int syncPath(const fs::path& path, int flags) {
    const int fd = ::open(path.c_str(), flags | O_CLOEXEC);
    if (fd < 0) return errno;
    const int code = ::fsync(fd) == 0 ? 0 : errno;
    ::close(fd);
    return code;
}

int renameInto(const fs::path& from, const fs::path& to, bool replace) {
    const long r = ::syscall(SYS_renameat2, AT_FDCWD, from.c_str(), AT_FDCWD, to.c_str(),
                             replace ? 0u : unsigned(RENAME_NOREPLACE));
    return r == 0 ? 0 : errno;
}

}  // namespace

tl::unexpected<Error> targetTaken(const fs::path& target, const fs::path& first) {
    return fail(Error::Kind::Refused, fmt::format("{} goes to the same file", first.string()),
                target.string(), "Deliver this one to another folder.");
}

Status writeSafely(const fs::path& target, bool replace,
                   const std::function<Status(const std::string&)>& fill) {
    static std::atomic<unsigned> counter{0};
    const auto exists = [&] {
        return fail(Error::Kind::Refused, "a file of this name is there already", target.string(),
                    "Choose another folder or name, or allow it to be replaced.");
    };
    std::error_code code;
    if (!replace && fs::exists(target, code)) return exists();
    const fs::path folder = target.has_parent_path() ? target.parent_path() : fs::path(".");
    const fs::path temporary =
        folder / fmt::format(".part-{}-{}-{}", ::getpid(), counter++, target.filename().string());
    // A first empty write tells a read-only folder apart from a fault of the writing library.
    const int fd = ::open(temporary.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0644);
    if (fd < 0) return systemError(target, errno);
    ::close(fd);
    Status status = fill(temporary.string());
    if (status) {
        if (const int e = syncPath(temporary, O_RDONLY)) status = systemError(target, e);
    }
    if (status) {
        const int e = renameInto(temporary, target, replace);
        if (e == EEXIST)
            status = exists();
        else if (e != 0)
            status = systemError(target, e);
    }
    if (!status) {
        fs::remove(temporary, code);
        return status;
    }
    if (const int e = syncPath(folder, O_RDONLY | O_DIRECTORY)) return systemError(target, e);
    return {};
}

void removeLeftovers(const fs::path& folder,
                     const std::function<bool(const std::string&)>& wanted) {
    static const std::regex pattern(R"(\.part-(\d+)-\d+-(.+))");
    std::error_code code;
    for (const auto& entry : fs::directory_iterator(folder, code)) {
        const std::string name = entry.path().filename().string();
        std::smatch parts;
        if (!std::regex_match(name, parts, pattern) || !wanted(parts[2])) continue;
        const auto writer = pid_t(std::strtol(parts[1].str().c_str(), nullptr, 10));
        if (::kill(writer, 0) != 0 && errno == ESRCH) fs::remove(entry.path(), code);
    }
}

Status writeTextSafely(const fs::path& target, const std::string& text) {
    return writeSafely(target, true, [&](const std::string& temporary) -> Status {
        const int fd = ::open(temporary.c_str(), O_WRONLY | O_TRUNC | O_CLOEXEC);
        if (fd < 0) return systemError(target, errno);
        size_t done = 0;
        int code = 0;
        while (done < text.size() && code == 0) {
            const ssize_t n = ::write(fd, text.data() + done, text.size() - done);
            if (n < 0 && errno != EINTR) code = errno;
            if (n > 0) done += size_t(n);
        }
        ::close(fd);
        if (code) return systemError(target, code);
        return {};
    });
}

Result<std::string> readText(const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in)
        return fail(Error::Kind::NotFound, "this file cannot be opened", file.string(),
                    "Check that it is still there and may be read.");
    std::ostringstream text;
    text << in.rdbuf();
    if (in.bad())
        return fail(Error::Kind::Unreadable, "this file cannot be read", file.string(),
                    "Check the disk, then try again.");
    return text.str();
}

}  // namespace gq::files
