#include "outline/text_curves.h"
#include "base/quantity.h"
#include <fontconfig/fontconfig.h>
#include <ft2build.h>
#include FT_FREETYPE_H
#include FT_OUTLINE_H
#include <hb-ft.h>
#include <memory>
#include <mutex>

// The shipped fonts, put into the program so that it needs no files beside it. Licences: data/fonts.
#define LP_EMBED(symbol, file)                                                                                         \
    __asm__(".section .rodata\n.balign 16\n" #symbol "_begin:\n.incbin \"" LP_FONT_DIR "/" file "\"\n" #symbol         \
            "_end:\n.byte 0\n.previous\n");                                                                            \
    extern "C" const unsigned char symbol##_begin[], symbol##_end[];
LP_EMBED(lp_font_manrope_bold, "Manrope-Bold.ttf")
LP_EMBED(lp_font_manrope_medium, "Manrope-Medium.ttf")
LP_EMBED(lp_font_b612, "B612-Regular.otf")
LP_EMBED(lp_font_b612_bold, "B612-Bold.otf")

namespace lp {
namespace {

struct Shipped {
    const char* name;
    const unsigned char *begin, *end;
};
const Shipped shipped[] = {{"Manrope Bold", lp_font_manrope_bold_begin, lp_font_manrope_bold_end},
                           {"Manrope Medium", lp_font_manrope_medium_begin, lp_font_manrope_medium_end},
                           {"B612", lp_font_b612_begin, lp_font_b612_end},
                           {"B612 Bold", lp_font_b612_bold_begin, lp_font_b612_bold_end}};

struct Library {
    FT_Library handle = nullptr;
    Library() { FT_Init_FreeType(&handle); }
    ~Library() { FT_Done_FreeType(handle); }
};

using Face = std::unique_ptr<FT_FaceRec_, decltype(&FT_Done_Face)>;

/// File of an installed font whose full name or family is exactly this; empty when there is none.
std::string installed_font(const std::string& name) {
    if (!FcInit()) return {};
    std::string file;
    for (const char* property : {FC_FULLNAME, FC_FAMILY}) {
        FcPattern* pattern = FcPatternCreate();
        FcPatternAddString(pattern, property, reinterpret_cast<const FcChar8*>(name.c_str()));
        FcPatternAddBool(pattern, FC_SCALABLE, FcTrue);
        FcObjectSet* wanted = FcObjectSetBuild(FC_FILE, FC_STYLE, nullptr);
        FcFontSet* found = FcFontList(nullptr, pattern, wanted);
        for (int i = 0; found && i < found->nfont; ++i) {
            FcChar8 *path = nullptr, *style = nullptr;
            if (FcPatternGetString(found->fonts[i], FC_FILE, 0, &path) != FcResultMatch) continue;
            FcPatternGetString(found->fonts[i], FC_STYLE, 0, &style);
            std::string its = style ? reinterpret_cast<const char*>(style) : "";
            bool plain = its == "Regular" || its == "Book" || its == "Medium" || its == "Roman";
            if (file.empty() || plain) file = reinterpret_cast<const char*>(path);
        }
        if (found) FcFontSetDestroy(found);
        FcObjectSetDestroy(wanted);
        FcPatternDestroy(pattern);
        if (!file.empty()) return file;
    }
    return file;
}

Expected<Face> open_font(FT_Library library, const std::string& name) {
    FT_Face face = nullptr;
    for (const Shipped& font : shipped)
        if (name == font.name && FT_New_Memory_Face(library, font.begin, font.end - font.begin, 0, &face) == 0)
            return Face(face, FT_Done_Face);
    std::string file = installed_font(name);
    if (!file.empty() && FT_New_Face(library, file.c_str(), 0, &face) == 0) {
        if (FT_IS_SCALABLE(face)) return Face(face, FT_Done_Face);
        FT_Done_Face(face);
    }
    std::string names;
    for (const Shipped& font : shipped) names += (names.empty() ? "" : ", ") + std::string(font.name);
    return problem(ProblemCode::Missing, "There is no font called \"" + name + "\" here.",
                   "These are always there: " + names + ".");
}

/// Takes FreeType's outline calls and makes curves of them, in font units.
struct Pen {
    std::vector<std::vector<Curve>> contours;
    Vec2 start = Vec2::Zero(), now = Vec2::Zero();
    static Vec2 point(const FT_Vector* v) { return {double(v->x), double(v->y)}; }
    void close() {
        if (!contours.empty() && (now - start).norm() > 0) contours.back().push_back(Curve::line(now, start));
        if (!contours.empty() && contours.back().empty()) contours.pop_back();
        now = start;
    }
    static int move(const FT_Vector* to, void* pen) {
        Pen& p = *static_cast<Pen*>(pen);
        p.close();
        p.contours.emplace_back();
        p.start = p.now = point(to);
        return 0;
    }
    static int line(const FT_Vector* to, void* pen) {
        Pen& p = *static_cast<Pen*>(pen);
        if ((point(to) - p.now).norm() > 0) p.contours.back().push_back(Curve::line(p.now, point(to)));
        p.now = point(to);
        return 0;
    }
    static int conic(const FT_Vector* c, const FT_Vector* to, void* pen) {
        Pen& p = *static_cast<Pen*>(pen);
        p.contours.back().push_back(Curve::quadratic(p.now, point(c), point(to)));
        p.now = point(to);
        return 0;
    }
    static int cubic(const FT_Vector* c, const FT_Vector* d, const FT_Vector* to, void* pen) {
        Pen& p = *static_cast<Pen*>(pen);
        p.contours.back().push_back(Curve::cubic(p.now, point(c), point(d), point(to)));
        p.now = point(to);
        return 0;
    }
};

Expected<std::vector<std::vector<Curve>>> glyph_contours(FT_Face face, unsigned glyph) {
    Pen pen;
    if (FT_Load_Glyph(face, glyph, FT_LOAD_NO_SCALE | FT_LOAD_NO_HINTING) != 0)
        return problem(ProblemCode::Geometry, "A letter of the font cannot be read.", "Choose another font.");
    FT_Outline_Funcs calls{Pen::move, Pen::line, Pen::conic, Pen::cubic, 0, 0};
    if (face->glyph->format == FT_GLYPH_FORMAT_OUTLINE) FT_Outline_Decompose(&face->glyph->outline, &calls, &pen);
    pen.close();
    return pen.contours;
}

double capital_height(FT_Face face) {
    unsigned glyph = FT_Get_Char_Index(face, 'H');
    if (glyph && FT_Load_Glyph(face, glyph, FT_LOAD_NO_SCALE | FT_LOAD_NO_HINTING) == 0 &&
        face->glyph->metrics.horiBearingY > 0)
        return double(face->glyph->metrics.horiBearingY);
    return 0.7 * face->units_per_EM;
}

struct ShapedGlyph {
    unsigned glyph = 0;
    Vec2 offset = Vec2::Zero();
    double advance = 0;
};

Expected<std::vector<ShapedGlyph>> shape_text(FT_Face face, const TextLayout& layout) {
    FT_Set_Char_Size(face, 0, face->units_per_EM * 64, 72,
                     72); // one unit is one pixel: positions in font units times 64
    std::unique_ptr<hb_font_t, decltype(&hb_font_destroy)> font(hb_ft_font_create(face, nullptr), hb_font_destroy);
    std::unique_ptr<hb_buffer_t, decltype(&hb_buffer_destroy)> buffer(hb_buffer_create(), hb_buffer_destroy);
    hb_buffer_add_utf8(buffer.get(), layout.text.c_str(), int(layout.text.size()), 0, int(layout.text.size()));
    hb_buffer_guess_segment_properties(buffer.get());
    hb_shape(font.get(), buffer.get(), nullptr, 0);
    unsigned count = 0;
    const hb_glyph_info_t* infos = hb_buffer_get_glyph_infos(buffer.get(), &count);
    const hb_glyph_position_t* places = hb_buffer_get_glyph_positions(buffer.get(), &count);
    std::vector<ShapedGlyph> glyphs;
    for (unsigned i = 0; i < count; ++i) {
        if (infos[i].codepoint == 0) {
            size_t from = infos[i].cluster, to = from + 1;
            while (to < layout.text.size() && (static_cast<unsigned char>(layout.text[to]) & 0xc0) == 0x80) ++to;
            return problem(ProblemCode::Missing,
                           "The font " + layout.font + " has no \"" + layout.text.substr(from, to - from) + "\".",
                           "Choose a font for that script, or another letter.");
        }
        glyphs.push_back({infos[i].codepoint, Vec2(places[i].x_offset, places[i].y_offset) / 64.0,
                          double(places[i].x_advance) / 64.0});
    }
    return glyphs;
}

} // namespace

std::vector<std::string> shipped_fonts() {
    std::vector<std::string> names;
    for (const Shipped& font : shipped) names.push_back(font.name);
    return names;
}

std::vector<std::string_view> shipped_font_files() {
    std::vector<std::string_view> files;
    for (const Shipped& font : shipped)
        files.emplace_back(reinterpret_cast<const char*>(font.begin), size_t(font.end - font.begin));
    return files;
}

Expected<std::vector<TextLetter>> text_letters(const TextLayout& layout) {
    if (layout.text.find_first_not_of(" \t\n") == std::string::npos)
        return problem(ProblemCode::Wording, "There is nothing to write.", "Type some text.");
    if (layout.text.size() > 2000)
        return problem(ProblemCode::Range, "The text is longer than 2000 characters.", "Split it.");
    if (!(layout.size_mm >= 0.1 && layout.size_mm <= 10000))
        return problem(ProblemCode::Range,
                       "Letters " + format_quantity(layout.size_mm, QuantityKind::Length) + " high cannot be made.",
                       "Use 0.1 mm to 10 m.");
    if (layout.circle && !(layout.circle->radius > 1e-3))
        return problem(ProblemCode::Range, "The circle of the text has no size.", "Give it a radius.");
    static Library library; // FreeType's library object is not for two threads at once
    static std::mutex mutex;
    std::lock_guard lock(mutex);
    auto face = open_font(library.handle, layout.font);
    if (!face) return pass_on(face);
    auto shaped = shape_text(face->get(), layout);
    if (!shaped) return pass_on(shaped);
    double scale = layout.size_mm / capital_height(face->get());
    double total = 0;
    for (const ShapedGlyph& g : *shaped) total += g.advance * scale + layout.spacing_mm;
    total -= layout.spacing_mm;
    std::vector<TextLetter> letters;
    double along = 0;
    for (const ShapedGlyph& g : *shaped) {
        auto contours = glyph_contours(face->get(), g.glyph);
        if (!contours) return pass_on(contours);
        Eigen::Affine2d place = Eigen::Affine2d::Identity();
        const Vec2 side(layout.mirrored ? -1 : 1, 1);
        if (layout.circle) {
            // The middle of each letter's width stands on the circle, upright to it.
            double middle = along + g.advance * scale / 2 - total / 2, r = layout.circle->radius;
            bool inside = layout.circle->inside;
            double angle = inside ? middle / r - std::numbers::pi / 2 : std::numbers::pi / 2 - middle / r;
            place.translate(layout.circle->centre);
            place.rotate(radians(layout.angle_deg));
            place.scale(side);
            place.rotate(angle - (inside ? -1 : 1) * std::numbers::pi / 2);
            place.translate(Vec2(-g.advance * scale / 2, inside ? -r : r));
        } else {
            place.translate(layout.at);
            place.rotate(radians(layout.angle_deg));
            if (layout.mirrored) place.translate(Vec2(total, 0));
            place.scale(side);
            place.translate(Vec2(along, 0));
        }
        place.scale(scale);
        place.translate(g.offset);
        TextLetter letter;
        for (const auto& contour : *contours) {
            letter.contours.emplace_back();
            for (const Curve& c : contour) letter.contours.back().push_back(c.mapped(place));
        }
        if (!letter.contours.empty()) letters.push_back(std::move(letter));
        along += g.advance * scale + layout.spacing_mm;
    }
    if (letters.empty()) return problem(ProblemCode::Wording, "There is nothing to write.", "Type some text.");
    return letters;
}

} // namespace lp
