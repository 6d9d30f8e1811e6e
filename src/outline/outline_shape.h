// An outline worked out: solved, its curves made, its regions found.
#pragma once
#include "base/task.h"
#include "outline/flat_paths.h"
#include "outline/solver.h"
#include <functional>

namespace lp {

struct OutlineInputs {
    ParameterValues parameters;
    /// Paths of a file taken into the project.
    std::function<Expected<FlatPaths>(const std::string& file)> import_paths;
    /// Geometry of a followed edge in the outline's plane: a line, an arc or circle; a Problem when it is lost.
    std::function<Expected<Curve>(const GeometryItem& edge)> follow;
    /// What bodies before the outline cover of its plane, by their names.
    std::function<Expected<FlatPaths>(const std::string& bodies)> silhouette;
    Task task;
};

struct OutlineShape {
    Drawing drawing; ///< solved
    DimensionValues values;
    ParameterValues parameters;             ///< those it was made with
    std::vector<SourcedCurve> curves;       ///< what bounds regions
    std::vector<SourcedCurve> construction; ///< shown only
    Arrangement arrangement;
    std::vector<bool> filled;        ///< of each region: what "all" takes
    std::vector<Vec2> own_crossings; ///< where one chain of drawn curves crosses itself
    std::vector<std::string> notes;
    Freedom freedom;                       ///< what may still move
    std::map<SourceKey, DrawingId> owners; ///< the element a derived curve belongs to: letters, file paths, offsets
    DrawingId owner_of(SourceKey key) const {
        auto found = owners.find(key);
        return found == owners.end() ? DrawingId(key) : found->second;
    }
};

/// Solves, draws text, imports, formulas and offsets, and finds the regions. Problems say what and where.
Expected<OutlineShape> make_outline(const Drawing& drawing, const OutlineInputs& inputs);

/// Curves of one element by itself, without offsets; construction too.
Expected<std::vector<SourcedCurve>> element_curves(const Drawing& solved, const Element& element,
                                                   const OutlineInputs& inputs);

/// A chosen region: remembered by the curves round it and on which side of them it lies.
struct RegionChoice {
    Vec2 at = Vec2::Zero();
    std::vector<std::pair<SourceKey, bool>> sides; ///< sorted; true: on the left of the source
};
/// Text of a `regions` field: "all", "every", or choices such as "(12.5, 4) 10l 12r; (3, 4)".
RegionChoice choice_of(const FlatRegion& region);
std::string choices_text(const std::vector<RegionChoice>& choices);
Expected<std::vector<RegionChoice>> choices_from_text(const std::string& text, const ParameterValues& parameters);
/// Indices of the regions a field means: "all" the filled ones, "every" all there are. A choice is found by its sides,
/// and by its place where several have the same; lost ones are a Problem that says where the region was.
Expected<std::vector<size_t>> chosen_regions(const OutlineShape& outline, const std::string& text);

/// The chosen regions with those that share an edge made one. Disjoint ones stay apart; holes stay.
Expected<std::vector<FlatRegion>> merged_regions(const Arrangement& arrangement, const std::vector<size_t>& chosen);
/// Regions moved outward by a distance everywhere, into their holes too (negative: inward), corners kept sharp.
Expected<std::vector<FlatRegion>> grown_regions(const std::vector<FlatRegion>& regions, double by_mm);

/// Open chains among the curves: paths to sweep along. Longest first.
std::vector<std::vector<SourcedCurve>> open_paths(const OutlineShape& outline);

} // namespace lp
