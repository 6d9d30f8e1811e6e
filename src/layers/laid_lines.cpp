#include "layers/laid_lines.h"
#include <algorithm>
#include <cmath>
#include <numbers>

namespace lp {

bool lays(const Eigen::Vector3f& from, const PlanMove& move) {
    return move.lays() && (move.to - from).head<2>().norm() > least_way_mm;
}

int height_key(float z) {
    return int(std::lround(double(z) * 1000));
}

double laid_width_mm(const Laid& line, double height_mm, double filament_mm) {
    constexpr double narrowest_mm = 0.2, widest_mm = 2;
    const double section = std::numbers::pi / 4 * filament_mm * filament_mm,
                 length = double((line.to - line.from).norm());
    return std::clamp(double(line.filament_mm) * section / (length * height_mm), narrowest_mm, widest_mm);
}

Expected<std::map<int, std::vector<Laid>>> laid_by_height(const PrintPlan& plan) {
    constexpr size_t most_layers = 20'000;
    std::map<int, std::vector<Laid>> layers;
    Eigen::Vector3f from = plan.begin;
    for (const PlanMove& move : plan.moves) {
        if (lays(from, move))
            layers[height_key(move.to.z())].push_back(
                {from.head<2>(), move.to.head<2>(), move.extruded_mm, move.speed_mm_s, from.z(), move.to.z()});
        from = move.to;
    }
    if (layers.empty())
        return problem(ProblemCode::Geometry, "No line is laid in it: it moves, and gives no filament.",
                       "Choose the file of a print.");
    if (layers.size() > most_layers)
        return problem(ProblemCode::Range, "It has more than 20,000 layers.", "Open a smaller print.");
    return layers;
}

} // namespace lp
