// Edits of how things are printed: poses, supports, stops, beds and cards.
#include "project/edit_applier.h"
#include "project/layer_heights.h"
#include <algorithm>

namespace lp {

void Applier::on(const SetPose& e) {
    change_part(e.part, [&](Part& p) {
        if (auto numbers = values(); numbers) {
            for (const std::string& turn : e.pose.turn)
                if (auto angle = evaluate_expression(turn, QuantityKind::Angle, *numbers); !angle)
                    return fail(angle.error());
        }
        sentence_ = e.pose.face && e.pose.face != p.pose.face
                        ? "Laid " + p.name + " on its " + tag_words(e.pose.face->primary) + " face"
                        : "Turned " + p.name + " on the bed";
        p.pose = e.pose;
    });
}

void Applier::on(const SetStops& e) {
    if (e.stops.size() > most_stops)
        return fail({ProblemCode::Range, "That is more stops than a print has layers for.", "Take some out."});
    auto numbers = values();
    if (!numbers) return fail(numbers.error());
    for (const StopByHand& stop : e.stops) {
        const auto at = evaluate_expression(stop.at, QuantityKind::Length, *numbers);
        if (!at) return fail(at.error());
        if (!(*at > 0 && *at <= 10'000))
            return fail({ProblemCode::Range, "A print stops above its foot, below 10 m.", "Give a height: 7.2 mm."});
        if (stop.why.size() > 200)
            return fail({ProblemCode::Range, "That is more than fits on a job sheet.", "Say it shorter."});
    }
    change_part(e.part, [&](Part& p) {
        sentence_ = e.stops.size() > p.stops.size()   ? "A stop in the print of " + p.name
                    : e.stops.size() < p.stops.size() ? "Took a stop out of the print of " + p.name
                                                      : "Changed where the print of " + p.name + " stops";
        p.stops = e.stops;
    });
}

void Applier::on(const SetBands& e) {
    if (e.bands.size() > most_bands)
        return fail({ProblemCode::Range, "That is more ranges of layers than anyone follows.", "Take some out."});
    auto numbers = values();
    if (!numbers) return fail(numbers.error());
    std::vector<std::pair<double, TypedBand>> sorted;
    for (const TypedBand& band : e.bands) {
        const auto from = evaluate_expression(band.from, QuantityKind::Length, *numbers);
        if (!from) return fail(from.error());
        sorted.emplace_back(*from, band);
    }
    std::stable_sort(sorted.begin(), sorted.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    std::vector<TypedBand> bands;
    for (auto& [from, band] : sorted) bands.push_back(std::move(band));
    if (auto read = height_bands(bands, *numbers); !read) return fail(read.error());
    change_part(e.part, [&](Part& p) {
        sentence_ = bands.size() > p.bands.size()   ? "Layers of another height in " + p.name
                    : bands.size() < p.bands.size() ? "Took layers of another height out of " + p.name
                                                    : "Changed the heights of layers of " + p.name;
        p.bands = bands;
    });
}

void Applier::on(const SetPoseWeights& e) {
    if (auto wrong = check_pose_weights(e.weights)) return fail(*wrong);
    project_.pose_weights = e.weights;
    sentence_ = "Changed what counts in comparing ways up";
}

void Applier::on(const SetStands& e) {
    for (const auto& put : e.stands) {
        const PartId id = put.first;
        const BedStands& stands = put.second;
        for (const auto& [copy, stand] : stands)
            if (auto wrong = check_stand(copy, stand)) return fail(*wrong);
        change_part(id, [&](Part& p) {
            sentence_ = e.beds ? "Arranged everything on " + counted(e.beds, "bed", "beds")
                               : "Put " + p.name + " elsewhere on the bed";
            p.stands = stands;
        });
    }
}

void Applier::on(const SetBeds& e) {
    if (!(e.beds.spacing_mm >= 0 && e.beds.spacing_mm <= 100))
        return fail({ProblemCode::Range, "The way between things on a bed is 0 to 100 mm.", "Use 3 mm."});
    sentence_ = "Changed how beds are arranged";
    project_.beds = e.beds;
}

void Applier::on(const SetSupports& e) {
    if (auto wrong = check_supports(e.supports.options)) return fail(*wrong);
    change_part(e.part, [&](Part& p) {
        sentence_ = e.supports.on == p.supports.on
                        ? "Changed supports of " + p.name
                        : (e.supports.on ? "Put supports under " : "Took supports away from ") + p.name;
        p.supports = e.supports;
    });
}

void Applier::on(const SetPrinter& e) {
    if (auto wrong = check_card(e.printer)) return fail(*wrong);
    PrinterCard next = e.printer;
    const PrinterCard& now = project_.printer;
    // A number typed over is no longer what was measured; one shrink typed for all holes replaces the table.
    if (next.gauges == now.gauges) {
        if (next.outside_growth_mm != now.outside_growth_mm) next.sources["outside_growth_mm"] = "typed here";
        if (next.hole_shrink_mm != now.hole_shrink_mm) {
            next.sources["hole_shrink_mm"] = "typed here";
            if (next.hole_shrinks == now.hole_shrinks) next.hole_shrinks.clear();
        }
    }
    project_.printer = std::move(next);
    sentence_ = "Changed the printer card";
}

void Applier::on(const SetMaterial& e) {
    if (auto wrong = check_card(e.material)) return fail(*wrong);
    project_.material = e.material;
    sentence_ = "Changed the material card";
}

} // namespace lp
