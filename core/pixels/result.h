#pragma once
#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace gq {

/// What went wrong, worded for the person at the bench.
struct Error {
    enum class Kind {
        NotFound,
        Unreadable,
        Unsupported,
        TooLarge,
        NoPermission,
        DiskFull,
        Changed,
        NewerVersion,
        Busy,
        BadSetting,
        Refused,
        Partial,  ///< done, but of a part of the file alone
        Cancelled
    };
    Kind kind = Kind::Unreadable;
    std::string what;    ///< one plain sentence part, e.g. "the file ends too early"
    std::string file;    ///< the file it is about; empty if none
    std::string remedy;  ///< the way out, a full sentence

    /// "FILE: what. Remedy" in one line.
    [[nodiscard]] std::string message() const;
};

template <class T>
using Result = tl::expected<T, Error>;
using Status = Result<void>;

/// An error result in one call.
[[nodiscard]] inline tl::unexpected<Error> fail(Error::Kind kind, std::string what,
                                                std::string file = {}, std::string remedy = {}) {
    return tl::unexpected<Error>(Error{kind, std::move(what), std::move(file), std::move(remedy)});
}

/// The result of a call that was stopped.
[[nodiscard]] inline tl::unexpected<Error> cancelled() {
    return fail(Error::Kind::Cancelled, "stopped");
}

}  // namespace gq
