// Grey pictures (PGM, the Netpbm format P5: netpbm.sourceforge.net/doc/pgm.html): traced as drawings. Photos of other
// formats come as these from the window.
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "outline/picture_trace.h"

namespace lp {
namespace {

constexpr uint32_t most_side = 8192;
constexpr size_t most_pixels = 24u << 20;

Problem wrong(const std::string& sentence) {
    return {ProblemCode::File, sentence, "Write the picture anew, or bring in another."};
}

/// Numbers of the head, with remarks from # to a line's end left out.
class Head {
  public:
    explicit Head(const std::string& bytes) : bytes_(bytes) {}
    std::optional<uint32_t> number() {
        while (at_ < bytes_.size() && (std::isspace(uint8_t(bytes_[at_])) || bytes_[at_] == '#')) {
            if (bytes_[at_] == '#')
                while (at_ < bytes_.size() && bytes_[at_] != '\n') ++at_;
            else
                ++at_;
        }
        uint32_t value = 0;
        const size_t from = at_;
        for (; at_ < bytes_.size() && std::isdigit(uint8_t(bytes_[at_])); ++at_) {
            value = value * 10 + uint32_t(bytes_[at_] - '0');
            if (value > 1'000'000) return std::nullopt;
        }
        return at_ > from ? std::optional(value) : std::nullopt;
    }
    size_t at() const { return at_; }

  private:
    const std::string& bytes_;
    size_t at_ = 2; // after "P5"
};

} // namespace

Expected<FlatPaths> read_picture(const std::string& bytes) {
    if (bytes.compare(0, 2, "P5") != 0) return pass_on(wrong("This is not a grey picture (PGM, P5)."));
    Head head(bytes);
    const auto width = head.number(), height = head.number(), most = head.number();
    if (!width || !height || !most || *most < 1 || *most > 65535)
        return pass_on(wrong("The picture's head cannot be read."));
    if (*width < 1 || *height < 1 || *width > most_side || *height > most_side ||
        size_t(*width) * *height > most_pixels)
        return pass_on(wrong("A picture of " + std::to_string(*width) + " x " + std::to_string(*height) +
                             " pixels cannot be traced: 24 million at most, 8192 a side."));
    const size_t wide = *most > 255 ? 2 : 1, pixels = size_t(*width) * *height, first = head.at() + 1;
    if (bytes.size() < first || bytes.size() - first < pixels * wide)
        return pass_on(wrong("The picture is cut off: pixels are missing."));
    auto picture = std::make_shared<GreyPicture>();
    picture->width = *width;
    picture->height = *height;
    picture->grey.resize(pixels);
    for (size_t i = 0; i < pixels; ++i) {
        uint32_t value = uint8_t(bytes[first + i * wide]);
        if (wide == 2) value = value << 8 | uint8_t(bytes[first + i * wide + 1]);
        picture->grey[i] = uint8_t(std::min(value, *most) * 255 / *most);
    }
    FlatPaths result;
    result.format = "pgm";
    result.unit = "px";
    result.height_mm = *height * picture_pixel_mm;
    auto traced = traced_picture(*picture);
    if (!traced) return pass_on(traced);
    result.paths = std::move(*traced);
    result.picture = std::move(picture);
    result.findings.push_back({"unit", 1, {}, "A picture has no size: set a true length between two of its places."});
    return result;
}

FileFormat picture_format() {
    FileFormat format{.id = "pgm", .title = "PGM", .endings = {"pgm"}, .content = FileFormat::Content::Flat};
    format.looks_like = [](std::string_view bytes) { return bytes.substr(0, 2) == "P5"; };
    format.read_flat = read_picture;
    return format;
}

} // namespace lp
