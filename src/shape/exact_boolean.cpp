#include "shape/exact_boolean.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_shape.h"
#include <BRepAlgoAPI_Common.hxx>
#include <BRepAlgoAPI_Cut.hxx>
#include <BRepAlgoAPI_Fuse.hxx>
#include <BRepCheck_Analyzer.hxx>
#include <BRepTools_History.hxx>
#include <ShapeUpgrade_UnifySameDomain.hxx>
#include <TopExp.hxx>
#include <TopExp_Explorer.hxx>
#include <TopTools_IndexedMapOfShape.hxx>
#include <TopTools_ListOfShape.hxx>
#include <numeric>

namespace lp {
namespace {

using FaceMap = TopTools_IndexedMapOfShape;

void bind(FaceTags& tags, const TopoDS_Shape& face, const TagSet& more) {
    if (TagSet* there = tags.ChangeSeek(face))
        add_tags(*there, more);
    else
        tags.Bind(face, more);
}

/// Carries the tags of one operand into the result through an algorithm's history. "Modified" faces that are not in
/// the result are dropped; an empty list with the face still there means it was kept (architecture.md).
template <class History>
void carry_tags(const ExactShape& from, History& history, const FaceMap& faces, FaceTags& into) {
    for (FaceTags::Iterator it(from.tags); it.More(); it.Next()) {
        const TopTools_ListOfShape& changed = history.Modified(it.Key());
        for (const TopoDS_Shape& face : changed)
            if (faces.Contains(face)) bind(into, face, it.Value());
        if (faces.Contains(it.Key())) bind(into, it.Key(), it.Value());
    }
}

struct HistoryOf {
    Handle(BRepTools_History) history;
    const TopTools_ListOfShape& Modified(const TopoDS_Shape& shape) { return history->Modified(shape); }
};

/// Merges flush faces and carries the tags along.
std::shared_ptr<ExactShape> merge_flush(const ExactShape& raw) {
    ShapeUpgrade_UnifySameDomain unify(raw.shape, true, true, false);
    unify.Build();
    auto result = std::make_shared<ExactShape>();
    result->shape = unify.Shape();
    FaceMap faces;
    TopExp::MapShapes(result->shape, TopAbs_FACE, faces);
    HistoryOf history{unify.History()};
    carry_tags(raw, history, faces, result->tags);
    result->births = raw.births;
    return result;
}

Expected<std::shared_ptr<ExactShape>> run(BRepAlgoAPI_BooleanOperation& algorithm,
                                          const std::vector<const ExactShape*>& first,
                                          const std::vector<const ExactShape*>& tools, const char* what) {
    TopTools_ListOfShape arguments, others;
    for (const ExactShape* shape : first) arguments.Append(shape->shape);
    for (const ExactShape* shape : tools) others.Append(shape->shape);
    algorithm.SetArguments(arguments);
    algorithm.SetTools(others);
    algorithm.SetFuzzyValue(tolerance::boolean_fuzzy_mm);
    algorithm.SetNonDestructive(true);
    algorithm.Build();
    if (!algorithm.IsDone() || algorithm.HasErrors())
        return problem(ProblemCode::Geometry, std::string("The geometry kernel could not ") + what + " these bodies.",
                       "Move one of them by 0.01 mm, or change a size a little.");
    ExactShape raw;
    raw.shape = algorithm.Shape();
    FaceMap faces;
    TopExp::MapShapes(raw.shape, TopAbs_FACE, faces);
    for (const ExactShape* shape : first) carry_tags(*shape, algorithm, faces, raw.tags);
    for (const ExactShape* shape : tools) carry_tags(*shape, algorithm, faces, raw.tags);
    for (const ExactShape* shape : first) raw.births.insert(shape->births.begin(), shape->births.end());
    for (const ExactShape* shape : tools) raw.births.insert(shape->births.begin(), shape->births.end());
    if (faces.IsEmpty()) return std::make_shared<ExactShape>(raw);
    return merge_flush(raw);
}

Expected<std::shared_ptr<ExactShape>> compute(Operation operation, const Body& first, const std::vector<Body>& others) {
    std::vector<const ExactShape*> tools;
    for (const Body& body : others) tools.push_back(body.exact().get());
    switch (operation) {
    case Operation::Join: {
        BRepAlgoAPI_Fuse fuse;
        return run(fuse, {first.exact().get()}, tools, "join");
    }
    case Operation::Cut: {
        BRepAlgoAPI_Cut cut;
        return run(cut, {first.exact().get()}, tools, "cut");
    }
    case Operation::Common:
        break;
    }
    // The kernel's common of groups unites the tools first; keeping what all have means one after the other.
    auto result = std::make_shared<ExactShape>(*first.exact());
    for (const ExactShape* tool : tools) {
        BRepAlgoAPI_Common common;
        auto next = run(common, {result.get()}, {tool}, "keep the common part of");
        if (!next) return next;
        result = *next;
    }
    return result;
}

} // namespace

const char* operation_name(Operation operation) {
    switch (operation) {
    case Operation::Join:
        return "join";
    case Operation::Cut:
        return "cut";
    case Operation::Common:
        return "common";
    }
    return "join";
}

std::optional<Problem> check_boolean_volume(Operation operation, double result, double first,
                                            const std::vector<double>& others) {
    double sum = std::accumulate(others.begin(), others.end(), 0.0);
    double low = 0, high = first;
    if (operation == Operation::Join) {
        low = first;
        for (double v : others) low = std::max(low, v);
        high = first + sum;
    } else if (operation == Operation::Cut) {
        low = std::max(0.0, first - sum);
    } else {
        for (double v : others) high = std::min(high, v);
    }
    double slack = tolerance::boolean_volume * std::max(first, high) + 1e-6;
    if (result >= low - slack && result <= high + slack) return std::nullopt;
    return Problem{ProblemCode::Geometry,
                   "The result of the " + std::string(operation_name(operation)) + " has a volume of " +
                       format_number(result) + " mm³, and it should lie between " + format_number(low) + " and " +
                       format_number(high) + " mm³.",
                   "Move one of the bodies by 0.01 mm, or change a size a little.",
                   {},
                   {}};
}

Expected<Body> combine_exact(Operation operation, const Body& first, const std::vector<Body>& others) {
    return guard_kernel("combining bodies", [&]() -> Expected<Body> {
        auto shape = compute(operation, first, others);
        if (!shape) return tl::make_unexpected(shape.error());
        if (!TopExp_Explorer((*shape)->shape, TopAbs_SOLID).More())
            return problem(ProblemCode::Geometry, "Nothing is left after this.",
                           operation == Operation::Common ? "The bodies have no material in common: move one of them."
                                                          : "The cut takes the whole body away: make it smaller.");
        if (!BRepCheck_Analyzer((*shape)->shape).IsValid())
            return problem(ProblemCode::Geometry,
                           "The result of the " + std::string(operation_name(operation)) + " is not sound.",
                           "Move one of the bodies by 0.01 mm, or change a size a little.");
        auto body = Body::from_exact(*shape);
        if (!body) return body;
        std::vector<double> volumes;
        for (const Body& other : others) volumes.push_back(other.mass().volume_mm3);
        if (auto wrong = check_boolean_volume(operation, body->mass().volume_mm3, first.mass().volume_mm3, volumes))
            return tl::make_unexpected(*wrong);
        return body;
    });
}

} // namespace lp
