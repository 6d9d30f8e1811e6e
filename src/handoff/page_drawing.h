// Lines and words on a page, before it is known into what file they go. Points (1/72 inch), y downwards.
#pragma once
#include "base/geometry.h"
#include <string>
#include <vector>

namespace lp {

struct PageLine {
    enum class Style { Whole, Dashes, DashDot };
    std::vector<Vec2> points;
    double thick = 0.5;
    Style style = Style::Whole;
    double grey = 0; ///< 0 black
};
struct PageText {
    enum class Align { Left, Middle, Right };
    Vec2 at; ///< half-way up its letters
    std::string words;
    Align align = Align::Left;
    bool bold = false;
};
struct PageDrawing {
    Vec2 size = Vec2::Zero();
    std::vector<PageLine> lines;
    std::vector<PageText> texts;

    static constexpr double letters = 8; ///< of all texts
    /// Lengths of dashes and of what lies between; empty for whole lines.
    static std::vector<double> dashes(PageLine::Style style);
};

/// The drawing as an SVG 1.1 file in its true size; words stay words.
std::string svg_of(const PageDrawing& drawing);

} // namespace lp
