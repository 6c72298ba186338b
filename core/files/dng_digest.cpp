#include "core/files/dng_digest.h"

#include "core/files/tiff_directory.h"

namespace gq::files {
namespace {

constexpr uint16_t kRawImageDigest = 50972, kNewRawImageDigest = 51111;
constexpr uint32_t kDigestSize = 16;

}  // namespace

Status clearRawDigests(const std::filesystem::path& file) {
    TiffDirectories tiff(file);
    if (!tiff.ok())
        return fail(Error::Kind::NoPermission, "it could not be written", file.string(),
                    "Check the folder's permissions.");
    if (!tiff.isClassic()) return {};
    for (const auto& e : tiff.read(tiff.first()).entries) {
        const bool digest = e.tag == kRawImageDigest || e.tag == kNewRawImageDigest,
                   bytes =
                       e.type == TiffDirectories::kByte || e.type == TiffDirectories::kUndefined;
        if (digest && bytes && e.count == kDigestSize)
            tiff.write(tiff.valueOf(e), std::array<char, kDigestSize>{}.data(), kDigestSize);
    }
    if (tiff.ok()) return {};
    return fail(Error::Kind::Unreadable, "its tags are damaged", file.string(),
                "Copy it again from the camera, or leave it out.");
}

}  // namespace gq::files
