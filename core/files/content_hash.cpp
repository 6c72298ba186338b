#include "core/files/content_hash.h"

#include <fmt/core.h>
#include <xxhash.h>

#include <fstream>
#include <memory>
#include <vector>

namespace gq::files {

Result<std::string> contentHash(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in)
        return fail(Error::Kind::NotFound, "this file cannot be opened", file.string(),
                    "Check that it is still there and may be read.");
    const std::unique_ptr<XXH3_state_t, decltype(&XXH3_freeState)> state(XXH3_createState(),
                                                                         &XXH3_freeState);
    XXH3_128bits_reset(state.get());
    std::vector<char> buffer(1 << 20);
    while (in) {
        in.read(buffer.data(), std::streamsize(buffer.size()));
        XXH3_128bits_update(state.get(), buffer.data(), size_t(in.gcount()));
    }
    if (in.bad())
        return fail(Error::Kind::Unreadable, "this file cannot be read to its end", file.string(),
                    "Check the disk, then try again.");
    const XXH128_hash_t h = XXH3_128bits_digest(state.get());
    return fmt::format("{:016x}{:016x}", h.high64, h.low64);
}

}  // namespace gq::files
