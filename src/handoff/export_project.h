// Printed parts as files for a slicer: in their print pose, supports as objects of their own, read back and compared.
#pragma once
#include "formats/formats.h"
#include "project/analysis.h"
#include "project/bed_plan.h"
#include "project/pauses.h"

namespace lp {

struct ExportItem {
    PartId part;
    std::string name;
    TriMesh mesh;     ///< in the print pose, standing on z = 0, centred at the origin
    TriMesh supports; ///< empty when there are none
    std::string colour;
    int quantity = 1;
    /// Bodies that touch, each by itself and named: as one mesh their common edges would have four facets, and which
    /// belong together could not be told. Empty where the mesh is sound as it is.
    std::vector<std::pair<std::string, TriMesh>> apart = {};
    TriMesh brim = {};                     ///< empty when there is none
    TriMesh raft = {};                     ///< the same; what stands on it is lifted
    TriMesh filled = {};                   ///< where the part is printed solid, layer on layer; empty: nowhere
    std::vector<std::string> remarks = {}; ///< what who prints it must know: where to stop, what it is printed of
    LayerOptions layers = {};
    std::vector<PartPause> stops = {};
};

/// Printed parts with a body, tessellated anew when `deflection_mm` differs from the measuring one.
Expected<std::vector<ExportItem>> export_items(const Evaluation& evaluation, double deflection_mm,
                                               const Task& task = {}, bool in_place = false);

/// Where each copy of them stands on the beds.
BedPlan bed_plan_of(const Project& project, const std::vector<ExportItem>& items);

/// A page that goes with the files.
struct ExportPaper {
    std::string file_name;
    std::function<Expected<std::string>(const Task&)> make; ///< its bytes; called beside the writing of the files
};

struct ExportOptions {
    std::filesystem::path folder;
    std::vector<std::string>
        formats; ///< ids of formats: one file for all parts, or one a part with its supports beside it
    double deflection_mm = 0.01;
    bool in_place = false; ///< parts as they stand in the design, once each and without supports
    std::vector<ExportPaper> papers = {};
};

/// Writes and reads back. What does not go on one bed goes on the next, a file a bed. All files or none: they take
/// their places when the last is written.
Expected<std::vector<ReadBack>> export_project(const Evaluation& evaluation, const ExportOptions& options,
                                               const Task& task = {});

} // namespace lp
