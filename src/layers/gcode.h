// A print plan made elsewhere, read from ordinary G-code (the words that ISO 6983-1 and printers' controllers share).
#pragma once
#include "base/geometry.h"
#include "base/problem.h"
#include "base/task.h"
#include <vector>

namespace lp {

/// One straight move; arcs are parted within 0.01 mm.
struct PlanMove {
    Eigen::Vector3f to = Eigen::Vector3f::Zero(); ///< mm; it begins where the one before ended
    float extruded_mm = 0;                        ///< of filament; below 0: drawn back
    float speed_mm_s = 0;
    uint8_t tool = 0;
    /// It lays a line: it moves sideways and gives filament.
    bool lays() const { return extruded_mm > 0; }
};

struct PrintPlan {
    Eigen::Vector3f begin = Eigen::Vector3f::Zero();
    std::vector<PlanMove> moves;
    size_t file_lines = 0;
    double filament_mm = 0;     ///< given less drawn back, over all tools
    double waits_s = 0;         ///< told in the file
    std::vector<size_t> pauses; ///< moves before which it stops for a hand
    size_t passed_over = 0;     ///< words that are not known here: heating, fans
    size_t tools = 1;
    bool inches = false; ///< some of it was
};

/// Absolute and relative places and filament, set anew by G92, inches, arcs by centre or radius, several tools,
/// comments by ; and (), numbered and checked lines. Refused: nothing in it, no move, numbers that are none or beyond
/// 100 m, arcs without a centre, more than 20 million moves, binary files. A last line that is cut off is passed over.
Expected<PrintPlan> read_gcode(const std::string& bytes, const Task& task = {});

} // namespace lp
