#include "handoff/picture_png.h"
#include <cairo.h>

namespace lp {

std::string png_of(const PartPicture& picture) {
    std::string bytes;
    if (picture.pixels.empty()) return bytes;
    std::vector<uint32_t> pixels = picture.pixels; // cairo wants to write to them
    cairo_surface_t* surface =
        cairo_image_surface_create_for_data(reinterpret_cast<unsigned char*>(pixels.data()), CAIRO_FORMAT_RGB24,
                                            picture.width, picture.height, picture.width * 4);
    cairo_surface_write_to_png_stream(
        surface,
        [](void* to, const unsigned char* data, unsigned int length) {
            static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(data), length);
            return CAIRO_STATUS_SUCCESS;
        },
        &bytes);
    cairo_surface_destroy(surface);
    return bytes;
}

} // namespace lp
