// A design kept at moments by a name: what has become other since, and a number taken back.
#pragma once
#include "project/analysis.h"

namespace lp {

/// A version as a project, with the files it brought in as far as the project still has them.
Expected<ProjectPtr> version_of(const Project& project, const std::string& name);

/// A number or a choice that is another one now.
struct NumberDifference {
    std::string key;   ///< names it: "wall" (a named number), "12.34.size_x" (part, step, field), "printer nozzle_mm"
    std::string words; ///< "wall", "Lid, step 3, height", "printer card, nozzle"
    std::string before, now;           ///< as typed; empty where it was not there, or is no more
    std::string before_told, now_told; ///< the same with unit, and with what a formula comes to: "wall * 2 = 4 mm"
    bool can_be_taken() const { return !before.empty() && !now.empty(); }
};
/// Named numbers, fields of steps that are there in both, numbers of the cards, quantities. In that order.
std::vector<NumberDifference> number_differences(const Project& before, const Project& now);
/// The project with one of them as the version has it.
Expected<Project> with_taken_over(const Project& project, const std::string& version, const std::string& key);

/// A part in both, or in one of them.
struct PartDifference {
    PartId part;
    std::string name;
    std::optional<PartFigures> before, now;        ///< none: it is not there
    std::optional<double> added_mm3, removed_mm3;  ///< none where it could not be told
    std::shared_ptr<const TriMesh> added, removed; ///< the same as bodies; null for nothing
    int steps_more = 0;                            ///< steps now that were not there, less those that were and are not
    bool same() const;
    /// "12.40 to 13.10 cm³: 0.90 added, 0.20 taken away; 34 to 36 min; 15.4 to 16.2 g".
    std::string says() const;
};
/// Both made and measured; longer than an evaluation by the booleans of parts that differ. Fails on request.
Expected<std::vector<PartDifference>> part_differences(Evaluator& evaluator, const ProjectPtr& before,
                                                       const ProjectPtr& now, const Task& task = {});

} // namespace lp
