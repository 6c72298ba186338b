#pragma once
#include <filesystem>
#include <string>

#include "core/files/picture_writer.h"
#include "core/series/series.h"

namespace gq::testkit {

/// A folder of a test's own, gone with it.
class Scratch {
  public:
    Scratch();
    ~Scratch();
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;
    [[nodiscard]] std::filesystem::path operator/(const std::string& name) const {
        return m_folder / name;
    }
    [[nodiscard]] const std::filesystem::path& path() const { return m_folder; }

  private:
    std::filesystem::path m_folder;
};

/// Writes a 16-bit picture; the suffix and `bits` choose the format.
void write(const std::filesystem::path& file, const Image& pixels, int bits = 16,
           Orientation orientation = Orientation::Upright);
/// Writes a TIFF of several 16-bit pictures in colour; one of a single channel becomes a mask of
/// one bit.
void writePages(const std::filesystem::path& file, const std::vector<Image>& pages);
/// A frame without a file.
[[nodiscard]] series::Frame frameOf(const std::string& id, const Size& size,
                                    Orientation orientation = Orientation::Upright);
/// The rendered demo series (see ./dev test).
[[nodiscard]] std::filesystem::path demoFolder();
[[nodiscard]] std::string bytesOf(const std::filesystem::path& file);

}  // namespace gq::testkit
