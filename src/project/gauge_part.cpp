#include "project/gauge_part.h"
#include "base/quantity.h"
#include "hardware/thread_size.h"
#include <nlohmann/json.hpp>
#include <set>

namespace lp {
namespace {

constexpr double label_mm = 5, label_depth_mm = 0.6, between_mm = 4;

std::string mm(double value) {
    return format_number(value, 4) + " mm";
}

Step step(const char* kind, std::map<std::string, std::string> fields, const std::string& name = {}) {
    Step s;
    s.kind = kind;
    s.name = name;
    s.fields = {fields.begin(), fields.end()};
    return s;
}

/// Numbers sunk from above at these places (left lower corners), all in one drawing.
void add_labels(Part& part, const std::vector<Vec2>& at, double height_mm) {
    nlohmann::json drawing{{"points", nlohmann::json::object()}, {"elements", nlohmann::json::array()}};
    for (size_t i = 0; i < at.size(); ++i) {
        auto id = int(i);
        drawing["points"][std::to_string(100 + id)] = {at[i].x(), at[i].y()};
        drawing["elements"].push_back({{"id", 200 + id},
                                       {"kind", "text"},
                                       {"points", {100 + id}},
                                       {"text", std::to_string(i + 1)},
                                       {"size", mm(label_mm)},
                                       {"spacing", "0.4 mm"},
                                       {"angle", "0 deg"},
                                       {"font", "Manrope Bold"}});
    }
    part.steps.push_back(
        step("outline", {{"on", "xy"}, {"distance", mm(height_mm)}, {"drawing", drawing.dump()}}, "numbers"));
    part.steps.push_back(step("extrude",
                              {{"outline", "numbers"}, {"height", mm(label_depth_mm)}, {"side", "in"}, {"does", "cut"}},
                              "sunk numbers"));
}

/// The coarse pitch of a metric thread of that diameter; of others about a seventh.
double pitch_for(double diameter_mm) {
    const auto metric = thread_size("M" + format_number(diameter_mm, 2));
    return metric ? metric->pitch_mm : std::max(0.5, std::round(diameter_mm / 7 * 4) / 4);
}

/// A plate with one opening for each gap; the peg, pin or card stands beside it.
void add_plate(Part& part, const GaugeLadder& g) {
    const bool slot = g.contact == "slot", square = g.contact == "pin", thread = g.contact == "thread";
    const double card_mm = 14, thick = slot     ? 4
                                       : thread ? 3 * pitch_for(g.nominal_mm)
                                                : std::clamp(g.nominal_mm * 0.6, 3.0, 5.0);
    const double opening = g.nominal_mm;
    const double pitch = std::max(opening + 2 * g.to_mm + between_mm, label_mm + between_mm);
    const double width = pitch * g.count + between_mm,
                 deep = (slot ? card_mm + 2 * g.to_mm : opening + 2 * g.to_mm) + between_mm;
    const double depth = deep + label_mm + between_mm;
    part.steps.push_back(step("block", {{"size_x", mm(width)}, {"size_y", mm(depth)}, {"size_z", mm(thick)}}, "plate"));
    std::vector<Vec2> labels;
    const double row_y = depth / 2 - deep / 2 - between_mm / 4;
    for (int k = 1; k <= g.count; ++k) {
        double x = -width / 2 + between_mm / 2 + pitch * (k - 0.5);
        std::string gap = " + 2 * " + mm(g.gap_at(k));
        std::map<std::string, std::string> place{
            {"at_x", mm(x)}, {"at_y", mm(row_y)}, {"at_z", "-1 mm"}, {"does", "cut"}};
        if (slot || square) {
            place["size_x"] = mm(g.nominal_mm) + gap;
            place["size_y"] = mm(slot ? card_mm : g.nominal_mm) + gap;
            place["size_z"] = mm(thick + 2);
            part.steps.push_back(step("block", place, "opening " + std::to_string(k)));
        } else if (thread) {
            place["at_z"] = "0 mm";
            place["size"] = "";
            place["diameter"] = mm(g.nominal_mm);
            place["pitch"] = mm(pitch_for(g.nominal_mm));
            place["length"] = mm(thick);
            place["gap"] = mm(g.gap_at(k));
            part.steps.push_back(step("thread", place, "opening " + std::to_string(k)));
        } else {
            place["diameter"] = mm(g.nominal_mm) + gap;
            place["height"] = mm(thick + 2);
            part.steps.push_back(step("cylinder", place, "opening " + std::to_string(k)));
        }
        double wide = label_mm * 0.6 * double(std::to_string(k).size());
        labels.push_back({x - wide / 2, -depth / 2 + between_mm / 2});
    }
    add_labels(part, labels, thick);
    if (g.contact == "screw") return;
    std::map<std::string, std::string> beside{
        {"at_x", mm(width / 2 + between_mm + g.nominal_mm)}, {"at_y", mm(row_y)}, {"does", "new"}};
    if (slot) {
        // Lying: a card printed on edge would take its size from other faces than cards do.
        beside["size_x"] = mm(thick + 10);
        beside["size_y"] = mm(card_mm);
        beside["size_z"] = mm(g.nominal_mm);
        beside["at_x"] = mm(width / 2 + between_mm + (thick + 10) / 2);
        part.steps.push_back(step("block", beside, "card"));
    } else if (square) {
        beside["size_x"] = beside["size_y"] = mm(g.nominal_mm);
        beside["size_z"] = mm(thick + 6);
        part.steps.push_back(step("block", beside, "pin"));
    } else if (thread) {
        // A head to turn it by, and the screw standing on it.
        beside["at_x"] = mm(width / 2 + between_mm + g.nominal_mm * 0.8);
        std::map<std::string, std::string> head = beside;
        head["sides"] = "6";
        head["across"] = mm(g.nominal_mm * 1.5);
        head["height"] = "4 mm";
        part.steps.push_back(step("prism", head, "screw"));
        beside["size"] = "";
        beside["diameter"] = mm(g.nominal_mm);
        beside["pitch"] = mm(pitch_for(g.nominal_mm));
        beside["length"] = mm(thick + 3);
        beside["gap"] = "0 mm";
        beside["at_z"] = "4 mm";
        part.steps.push_back(step("thread", beside, "shank"));
        part.steps.push_back(step("join", {{"what", "screw, shank"}}));
    } else {
        beside["diameter"] = mm(g.nominal_mm);
        beside["height"] = mm(thick + 6);
        part.steps.push_back(step("cylinder", beside, "peg"));
    }
}

/// Small hinges side by side, each with its own gap; as many notches in its right leaf as its number.
void add_hinges(Part& part, const GaugeLadder& g) {
    const double thick = 2, leaf = g.nominal_mm * 0.5 + 6;
    const double length = std::max(g.nominal_mm * 2.4, 4 + 1.6 * g.count), pitch = length + 2;
    for (int k = 1; k <= g.count; ++k) {
        double y = pitch * (k - 1);
        part.steps.push_back(step("hinge",
                                  {{"length", mm(length)},
                                   {"leaf", mm(leaf)},
                                   {"thickness", mm(thick)},
                                   {"barrel", mm(g.nominal_mm)},
                                   {"fit", mm(g.gap_at(k))},
                                   {"at_y", mm(y)}},
                                  "hinge " + std::to_string(k)));
    }
    for (int k = 1; k <= g.count; ++k) {
        double y = pitch * (k - 1);
        for (int n = 0; n < k; ++n)
            part.steps.push_back(step("block",
                                      {{"size_x", "2 mm"},
                                       {"size_y", "0.8 mm"},
                                       {"size_z", "1 mm"},
                                       {"at_x", mm(leaf - 1)},
                                       {"at_y", mm(y + 2 + 1.6 * n)},
                                       {"at_z", mm(thick - 0.6)},
                                       {"does", "new"}},
                                      "notch " + std::to_string(k) + "." + std::to_string(n + 1)));
        std::string notches;
        for (int n = 0; n < k; ++n)
            notches += (n ? ", " : "") + ("notch " + std::to_string(k) + "." + std::to_string(n + 1));
        part.steps.push_back(step("cut", {{"from", "hinge " + std::to_string(k) + " right leaf"}, {"what", notches}}));
    }
}

} // namespace

Expected<Part> gauge_part(const GaugeLadder& ladder) {
    if (auto wrong = check_ladder(ladder)) return pass_on(*wrong);
    const GaugeContact& contact = *find_gauge_contact(ladder.contact);
    Part part;
    part.name = std::string("Gauge, ") + contact.title + " " + format_number(ladder.nominal_mm, 2);
    part.colour = "#8f9aa3";
    part.gauge = ladder;
    if (ladder.contact == "hinge")
        add_hinges(part, ladder);
    else
        add_plate(part, ladder);
    return part;
}

Expected<Part> test_piece(const Project& project, const std::vector<PartId>& parts, const Vec3& at,
                          const Vec3& size_mm) {
    Part piece;
    std::string names;
    for (PartId id : std::set<PartId>(parts.begin(), parts.end())) {
        PartPtr part = project.part(id);
        if (!part || part->stand_in) continue;
        std::string name = "of " + part->name;
        names += (names.empty() ? "" : ", ") + part->name;
        piece.steps.push_back(step("take", {{"from", part->name}}, name));
        // Where it stands in the assembly: turned about x, y and z, then moved.
        const char* axes[3] = {"x", "y", "z"};
        for (size_t k = 0; k < 3; ++k)
            if (part->place.turn[k] != "0 deg")
                piece.steps.push_back(
                    step("turn", {{"what", name}, {"axis", axes[k]}, {"angle", part->place.turn[k]}}));
        if (part->place.at != AssemblyPlace{}.at)
            piece.steps.push_back(step("move", {{"what", name},
                                                {"by_x", part->place.at[0]},
                                                {"by_y", part->place.at[1]},
                                                {"by_z", part->place.at[2]}}));
    }
    if (piece.steps.empty())
        return problem(ProblemCode::Missing, "Neither side of this contact is printed.", "Choose another contact.");
    piece.name = "Test piece of " + names;
    piece.colour = "#8f9aa3";
    piece.steps.push_back(step("crop", {{"size_x", mm(size_mm.x())},
                                        {"size_y", mm(size_mm.y())},
                                        {"size_z", mm(size_mm.z())},
                                        {"at_x", mm(at.x())},
                                        {"at_y", mm(at.y())},
                                        {"at_z", mm(at.z())}}));
    return piece;
}

} // namespace lp
