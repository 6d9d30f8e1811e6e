#include "handoff/pdf_writer.h"
#include "outline/text_curves.h"
#include <cairo-pdf.h>
#include <cmath>
#include <fontconfig/fontconfig.h>
#include <pango/pangocairo.h>
#include <pango/pangofc-fontmap.h>
#include <sys/mman.h>
#include <unistd.h>

namespace lp {
namespace {

constexpr double margin = 48, foot = 30; ///< points
constexpr double small_pt = 8.5, text_pt = 9.5, heading_pt = 13, title_pt = 22;

/// Files in memory, one a shipped font: fontconfig takes files only, and they live in the program. They stay open:
/// fonts are read when they are used.
const std::vector<std::string>& shipped_files() {
    static const std::vector<std::string> files = [] {
        std::vector<std::string> paths;
        for (std::string_view bytes : shipped_font_files()) {
            const int file = memfd_create("loose-peg-font", 0);
            if (file < 0 || write(file, bytes.data(), bytes.size()) != ssize_t(bytes.size())) continue;
            paths.push_back("/proc/self/fd/" + std::to_string(file));
        }
        return paths;
    }();
    return files;
}

/// A font map of its own, with installed and shipped fonts: what a window's toolkit tells fontconfig of its fonts names
/// files that are not there.
PangoFontMap* font_map() {
    FcConfig* config = FcInitLoadConfigAndFonts();
    for (const std::string& path : shipped_files())
        FcConfigAppFontAddFile(config, reinterpret_cast<const FcChar8*>(path.c_str()));
    PangoFontMap* map = pango_cairo_font_map_new_for_font_type(CAIRO_FONT_TYPE_FT);
    pango_fc_font_map_set_config(PANGO_FC_FONT_MAP(map), config);
    FcConfigDestroy(config); // the map holds it
    return map;
}

bool is_colour(const std::string& text) {
    return text.size() == 7 && text[0] == '#' &&
           text.find_first_not_of("0123456789abcdefABCDEF", 1) == std::string::npos;
}

void arrow(cairo_t* cairo, const Vec2& tip, const Vec2& way) {
    const Vec2 side(-way.y(), way.x());
    const Vec2 a = tip - way * 5 + side * 1.6, b = tip - way * 5 - side * 1.6;
    cairo_move_to(cairo, tip.x(), tip.y());
    cairo_line_to(cairo, a.x(), a.y());
    cairo_line_to(cairo, b.x(), b.y());
    cairo_close_path(cairo);
    cairo_fill(cairo);
}

cairo_status_t take(void* closure, const unsigned char* data, unsigned int length) {
    static_cast<std::string*>(closure)->append(reinterpret_cast<const char*>(data), length);
    return CAIRO_STATUS_SUCCESS;
}

} // namespace

std::string valid_utf8(const std::string& text) {
    char* mended = g_utf8_make_valid(text.c_str(), -1);
    std::string result = mended;
    g_free(mended);
    return result;
}

Vec2 paper_points(Paper paper) {
    constexpr double point_mm = 25.4 / 72;
    return paper == Paper::A4 ? Vec2(210 / point_mm, 297 / point_mm) : Vec2(8.5 * 72, 11 * 72);
}

struct TextLook {
    bool bold = false, right = false, centred = false;
    bool draw = true; ///< else only its height is wanted
};

struct PdfWriter::Impl {
    std::string bytes, footer;
    Vec2 size;
    cairo_surface_t* surface = nullptr;
    cairo_t* cairo = nullptr;
    PangoFontMap* fonts = nullptr;
    PangoContext* context = nullptr;
    double y = margin;
    int page = 1;
    std::string waiting_heading; ///< told, and not written yet

    Impl(Paper paper, std::string words) : footer(std::move(words)), size(paper_points(paper)) {
        fonts = font_map();
        surface = cairo_pdf_surface_create_for_stream(take, &bytes, size.x(), size.y());
        cairo = cairo_create(surface);
        context = pango_font_map_create_context(fonts);
        pango_cairo_update_context(cairo, context);
    }
    ~Impl() {
        if (cairo) cairo_destroy(cairo);
        if (surface) cairo_surface_destroy(surface);
        g_object_unref(context);
        g_object_unref(fonts);
    }
    double width() const { return size.x() - 2 * margin; }
    double room() const { return size.y() - margin - foot - y; }
    void ink(double grey) { cairo_set_source_rgb(cairo, grey, grey, grey); }

    /// Text in a box. Its height.
    double text(const std::string& words, double x, double top, double wide, double points, TextLook look) {
        PangoLayout* layout = pango_layout_new(context);
        PangoFontDescription* font = pango_font_description_new();
        pango_font_description_set_family(font, look.bold ? "Manrope,sans-serif" : "B612,sans-serif");
        pango_font_description_set_weight(font, look.bold ? PANGO_WEIGHT_BOLD : PANGO_WEIGHT_NORMAL);
        pango_font_description_set_absolute_size(font, points * PANGO_SCALE);
        pango_layout_set_font_description(layout, font);
        pango_layout_set_width(layout, int(wide * PANGO_SCALE));
        pango_layout_set_wrap(layout, PANGO_WRAP_WORD_CHAR);
        pango_layout_set_alignment(layout, look.right     ? PANGO_ALIGN_RIGHT
                                           : look.centred ? PANGO_ALIGN_CENTER
                                                          : PANGO_ALIGN_LEFT);
        pango_layout_set_text(layout, valid_utf8(words).c_str(), -1);
        int w = 0, h = 0;
        pango_layout_get_size(layout, &w, &h);
        if (look.draw) {
            cairo_move_to(cairo, x, top);
            pango_cairo_show_layout(cairo, layout);
        }
        pango_font_description_free(font);
        g_object_unref(layout);
        return double(h) / PANGO_SCALE;
    }
    void line(double top, double thick) {
        cairo_set_line_width(cairo, thick);
        cairo_move_to(cairo, margin, top);
        cairo_line_to(cairo, margin + width(), top);
        cairo_stroke(cairo);
    }
    /// At the left margin, from the writing place down.
    void picture(const PartPicture& drawn, double scale) {
        std::vector<uint32_t> pixels = drawn.pixels;
        cairo_surface_t* image =
            cairo_image_surface_create_for_data(reinterpret_cast<unsigned char*>(pixels.data()), CAIRO_FORMAT_RGB24,
                                                drawn.width, drawn.height, drawn.width * 4);
        cairo_save(cairo);
        cairo_translate(cairo, margin, y);
        cairo_scale(cairo, scale, scale);
        cairo_set_source_surface(cairo, image, 0, 0);
        cairo_paint(cairo);
        cairo_restore(cairo);
        cairo_surface_finish(image); // what was painted is copied: the pixels go with this function
        cairo_surface_destroy(image);
    }
    void dimension(const PdfDimension& d, double scale) {
        const Vec2 corner(margin, y), a = corner + d.from * scale, b = corner + d.to * scale,
                                      way = (b - a).normalized();
        ink(0);
        cairo_set_line_width(cairo, 0.6);
        cairo_move_to(cairo, a.x(), a.y());
        cairo_line_to(cairo, b.x(), b.y());
        cairo_stroke(cairo);
        if (!d.one_way) arrow(cairo, a, -way);
        arrow(cairo, b, way);
        // Beside the line, farther where the words lie along the way out.
        constexpr double label_wide = 60, label_high = 11, letter_wide = 4.8;
        const double half = letter_wide * double(d.words.size()) / 2;
        const Vec2 at =
            (a + b) / 2 + d.aside * (5 + std::fabs(d.aside.x()) * half + std::fabs(d.aside.y()) * label_high / 2);
        text(d.words, at.x() - label_wide / 2, at.y() - label_high / 2, label_wide, small_pt, {.centred = true});
    }
    void end_page() {
        ink(0.25);
        const double top = size.y() - margin + 8;
        line(top - 4, 0.4);
        text(footer, margin, top, width() * 0.8, small_pt, {});
        text("page " + std::to_string(page), margin + width() * 0.8, top, width() * 0.2, small_pt, {.right = true});
        cairo_show_page(cairo);
    }
    void next_page() {
        end_page();
        ++page;
        y = margin;
    }
    /// Room for something so high on one page, together with the heading that waits for it: none stands alone at the
    /// foot of a page.
    void need(double height) {
        constexpr double before = 14, after = 4;
        const std::string heading = std::exchange(waiting_heading, {});
        const double its =
            heading.empty() ? 0 : text(heading, margin, 0, width(), heading_pt, {.bold = true, .draw = false});
        if (room() < height + (heading.empty() ? 0 : before + its + after) && y > margin) next_page();
        if (heading.empty()) return;
        if (y > margin) y += before;
        ink(0);
        text(heading, margin, y, width(), heading_pt, {.bold = true});
        y += its + after;
    }
    void block(const std::string& words, double points, bool bold, double before, double after) {
        const double height = text(words, margin, 0, width(), points, {.bold = bold, .draw = false});
        need(before + height);
        if (y > margin) y += before;
        ink(0);
        text(words, margin, y, width(), points, {.bold = bold});
        y += height + after;
    }
};

PdfWriter::PdfWriter(Paper paper, std::string footer) : impl_(std::make_unique<Impl>(paper, std::move(footer))) {}
PdfWriter::~PdfWriter() = default;

int PdfWriter::pages() const {
    return impl_->page;
}
void PdfWriter::title(const std::string& text) {
    impl_->block(text, title_pt, true, 0, 4);
}
void PdfWriter::heading(const std::string& text) {
    impl_->need(0); // the one before, if nothing came of it
    impl_->waiting_heading = text;
}
void PdfWriter::paragraph(const std::string& text) {
    impl_->block(text, text_pt, false, 0, 4);
}

void PdfWriter::table(const std::vector<PdfColumn>& columns, const std::vector<std::vector<std::string>>& rows) {
    Impl& p = *impl_;
    double shares = 0;
    for (const PdfColumn& column : columns) shares += column.share;
    constexpr double between = 8, swatch = 9;
    auto put = [&](const std::vector<std::string>& cells, bool head, bool draw) {
        double x = margin, height = 0;
        for (size_t c = 0; c < columns.size(); ++c) {
            const double wide = columns[c].share / shares * p.width();
            const std::string cell = c < cells.size() ? cells[c] : std::string();
            double left = x;
            if (!head && is_colour(cell)) {
                if (draw) {
                    const auto rgb = std::stoul(cell.substr(1), nullptr, 16);
                    cairo_rectangle(p.cairo, x, p.y + 1, swatch, swatch);
                    cairo_set_source_rgb(p.cairo, double(rgb >> 16 & 255) / 255, double(rgb >> 8 & 255) / 255,
                                         double(rgb & 255) / 255);
                    cairo_fill_preserve(p.cairo);
                    p.ink(0);
                    cairo_set_line_width(p.cairo, 0.4);
                    cairo_stroke(p.cairo);
                }
                left += swatch + 3;
            }
            height = std::max(height, p.text(cell, left, p.y, wide - between - (left - x), head ? small_pt : text_pt,
                                             {.bold = head, .right = columns[c].number, .draw = draw}));
            x += wide;
        }
        return height;
    };
    std::vector<std::string> titles;
    for (const PdfColumn& column : columns) titles.push_back(column.title);
    auto put_head = [&] {
        p.ink(0.2);
        p.y += put(titles, true, true) + 2;
        p.line(p.y, 0.8);
        p.y += 3;
    };
    for (size_t r = 0; r < rows.size(); ++r) {
        const double height = put(rows[r], false, false);
        if (r == 0) {
            p.need(height + 20);
            put_head();
        } else if (p.room() < height) {
            p.next_page();
            put_head();
        }
        p.ink(0);
        put(rows[r], false, true);
        p.y += height + 2;
        p.ink(0.7);
        p.line(p.y, 0.3);
        p.y += 3;
    }
    p.y += 4;
}

void PdfWriter::beside(const PdfPicture& picture, const std::string& name, const std::vector<std::string>& sentences) {
    Impl& p = *impl_;
    constexpr double between = 14, below = 10;
    const double wide = p.width() * 0.46, scale = picture.picture.width ? wide / picture.picture.width : 1,
                 x = margin + wide + between, text_wide = p.width() - wide - between;
    double height = p.text(name, x, 0, text_wide, heading_pt, {.bold = true, .draw = false}) + 4;
    for (const std::string& sentence : sentences)
        height += p.text(sentence, x, 0, text_wide, text_pt, {.draw = false}) + 3;
    height = std::max(height, picture.picture.height * scale) + below;
    p.need(height);
    p.picture(picture.picture, scale);
    for (const PdfDimension& dimension : picture.dimensions) p.dimension(dimension, scale);
    double y = p.y;
    p.ink(0);
    y += p.text(name, x, y, text_wide, heading_pt, {.bold = true}) + 4;
    for (const std::string& sentence : sentences) y += p.text(sentence, x, y, text_wide, text_pt, {}) + 3;
    p.y += height;
}

void PdfWriter::drawing(const PageDrawing& drawing) {
    Impl& p = *impl_;
    p.need(drawing.size.y());
    const Vec2 corner(margin + std::max(0.0, p.width() - drawing.size.x()) / 2, p.y);
    for (const PageLine& line : drawing.lines) {
        if (line.points.size() < 2) continue;
        p.ink(line.grey);
        cairo_set_line_width(p.cairo, line.thick);
        const std::vector<double> dashes = PageDrawing::dashes(line.style);
        cairo_set_dash(p.cairo, dashes.data(), int(dashes.size()), 0);
        for (const Vec2& point : line.points) cairo_line_to(p.cairo, corner.x() + point.x(), corner.y() + point.y());
        cairo_stroke(p.cairo);
    }
    cairo_set_dash(p.cairo, nullptr, 0, 0);
    p.ink(0);
    for (const PageText& text : drawing.texts) {
        constexpr double wide = 400; // points: more than any of them
        const Vec2 at = corner + text.at;
        const double left = text.align == PageText::Align::Left     ? at.x()
                            : text.align == PageText::Align::Middle ? at.x() - wide / 2
                                                                    : at.x() - wide;
        const TextLook look{.bold = text.bold,
                            .right = text.align == PageText::Align::Right,
                            .centred = text.align == PageText::Align::Middle,
                            .draw = false};
        const double high = p.text(text.words, left, 0, wide, PageDrawing::letters, look);
        TextLook drawn = look;
        drawn.draw = true;
        p.text(text.words, left, at.y() - high / 2, wide, PageDrawing::letters, drawn);
    }
    p.y += drawing.size.y();
}

Vec2 PdfWriter::room() const {
    return {impl_->width(), impl_->room()};
}

Expected<std::string> PdfWriter::finish() {
    impl_->need(0);
    impl_->end_page();
    cairo_destroy(impl_->cairo);
    impl_->cairo = nullptr;
    cairo_surface_finish(impl_->surface);
    if (cairo_surface_status(impl_->surface) != CAIRO_STATUS_SUCCESS)
        return problem(ProblemCode::Missing, "The sheet could not be written.",
                       cairo_status_to_string(cairo_surface_status(impl_->surface)));
    return std::move(impl_->bytes);
}

} // namespace lp
