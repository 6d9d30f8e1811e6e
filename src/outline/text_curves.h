// Letters as curves: shipped fonts by name, installed ones too, shaped by HarfBuzz, drawn by FreeType.
#pragma once
#include "base/problem.h"
#include "outline/curve.h"
#include <optional>
#include <string_view>

namespace lp {

struct TextLayout {
    std::string text, font = "Manrope Bold";
    double size_mm = 8;    ///< height of the capital H: what calipers measure
    double spacing_mm = 0; ///< added between letters
    double angle_deg =
        0; ///< of the line; round a circle: how far the middle of the text stands from the top, counter-clockwise
    Vec2 at = Vec2::Zero(); ///< where the line of writing starts
    struct Circle {
        Vec2 centre;
        double radius = 0;
        bool inside = false; ///< letters stand inside, read from below; otherwise outside, read from above
    };
    std::optional<Circle> circle;
    bool mirrored = false; ///< read from behind, or in what is pressed with it; it stays where it stands
};

/// Closed contours, letter by letter; to be filled by the non-zero rule within a letter.
struct TextLetter {
    std::vector<std::vector<Curve>> contours;
};

/// Letters with curves (spaces have none). Problems: an unknown font, a character the font lacks (named), nothing to
/// write, more than 2000 characters, sizes outside 0.1 mm to 10 m.
Expected<std::vector<TextLetter>> text_letters(const TextLayout& layout);

/// Names of the fonts that ship with the application.
std::vector<std::string> shipped_fonts();
/// Their files, byte by byte; they last as long as the program.
std::vector<std::string_view> shipped_font_files();

} // namespace lp
