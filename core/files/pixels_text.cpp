#include "core/files/pixels_text.h"

#include <memory>

#include "core/files/vips_setup.h"

namespace gq::files {
using vips::VImage;

std::string pixelsToText(const Image& pixels) {
    startVips();
    const Image whole = pixels.isContinuous() ? pixels : pixels.clone();
    const VImage image =
        VImage::new_from_memory(whole.data, whole.total() * whole.elemSize(), whole.cols,
                                whole.rows, whole.channels(), VIPS_FORMAT_USHORT)
            .copy(VImage::option()->set("interpretation", whole.channels() == 1
                                                              ? VIPS_INTERPRETATION_GREY16
                                                              : VIPS_INTERPRETATION_RGB16));
    void* bytes = nullptr;
    size_t size = 0;
    image.write_to_buffer(".png", &bytes, &size);
    const std::unique_ptr<void, decltype(&g_free)> owner(bytes, g_free);
    const std::unique_ptr<char, decltype(&g_free)> text(
        g_base64_encode(static_cast<const guchar*>(bytes), size), g_free);
    return text.get();
}

Result<Image> pixelsFromText(const std::string& text) {
    startVips();
    gsize size = 0;
    const std::unique_ptr<guchar, decltype(&g_free)> bytes(g_base64_decode(text.c_str(), &size),
                                                           g_free);
    try {
        const VImage image = VImage::new_from_buffer(bytes.get(), size, "");
        if (image.format() != VIPS_FORMAT_USHORT || (image.bands() != 1 && image.bands() != 3))
            return fail(Error::Kind::Unreadable, "lent pixels are not 16 bits in grey or colour");
        Image out(image.height(), image.width(), CV_MAKETYPE(CV_16U, image.bands()));
        image.write(VImage::new_from_memory(out.data, out.total() * out.elemSize(), out.cols,
                                            out.rows, image.bands(), image.format()));
        return out;
    } catch (const vips::VError&) {
        vips_error_clear();
        return fail(Error::Kind::Unreadable, "lent pixels are damaged");
    }
}

}  // namespace gq::files
