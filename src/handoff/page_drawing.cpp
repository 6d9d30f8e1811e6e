#include "handoff/page_drawing.h"
#include "base/quantity.h"
#include "handoff/pdf_writer.h"
#include <pugixml.hpp>
#include <sstream>

namespace lp {
namespace {

std::string number(double value) {
    return format_number(value, 3);
}

} // namespace

std::vector<double> PageDrawing::dashes(PageLine::Style style) {
    switch (style) {
    case PageLine::Style::Dashes:
        return {3, 2};
    case PageLine::Style::DashDot:
        return {9, 2.5, 1, 2.5};
    case PageLine::Style::Whole:
        break;
    }
    return {};
}

std::string svg_of(const PageDrawing& drawing) {
    constexpr double point_mm = 25.4 / 72;
    pugi::xml_document document;
    pugi::xml_node svg = document.append_child("svg");
    svg.append_attribute("xmlns") = "http://www.w3.org/2000/svg";
    svg.append_attribute("version") = "1.1";
    svg.append_attribute("width") = (number(drawing.size.x() * point_mm) + "mm").c_str();
    svg.append_attribute("height") = (number(drawing.size.y() * point_mm) + "mm").c_str();
    svg.append_attribute("viewBox") = ("0 0 " + number(drawing.size.x()) + " " + number(drawing.size.y())).c_str();
    for (const PageLine& line : drawing.lines) {
        pugi::xml_node node = svg.append_child("polyline");
        std::string points;
        for (const Vec2& p : line.points) points += number(p.x()) + "," + number(p.y()) + " ";
        node.append_attribute("points") = points.c_str();
        node.append_attribute("fill") = "none";
        const auto grey = std::to_string(int(std::lround(255 * line.grey)));
        node.append_attribute("stroke") = ("rgb(" + grey + "," + grey + "," + grey + ")").c_str();
        node.append_attribute("stroke-width") = number(line.thick).c_str();
        std::string dashes;
        for (double length : PageDrawing::dashes(line.style)) dashes += number(length) + " ";
        if (!dashes.empty()) node.append_attribute("stroke-dasharray") = dashes.c_str();
    }
    for (const PageText& text : drawing.texts) {
        pugi::xml_node node = svg.append_child("text");
        node.append_attribute("x") = number(text.at.x()).c_str();
        node.append_attribute("y") = number(text.at.y() + 0.35 * PageDrawing::letters).c_str(); // of their height
        node.append_attribute("font-family") = "sans-serif";
        node.append_attribute("font-size") = number(PageDrawing::letters).c_str();
        if (text.bold) node.append_attribute("font-weight") = "bold";
        node.append_attribute("text-anchor") = text.align == PageText::Align::Left     ? "start"
                                               : text.align == PageText::Align::Middle ? "middle"
                                                                                       : "end";
        node.text() = valid_utf8(text.words).c_str();
    }
    std::ostringstream out;
    document.save(out, " ");
    return out.str();
}

} // namespace lp
