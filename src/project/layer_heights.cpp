#include "project/layer_heights.h"
#include "base/text.h"

namespace lp {

Expected<std::vector<HeightBand>> height_bands(const std::vector<TypedBand>& typed, const ParameterValues& values) {
    std::vector<HeightBand> bands;
    for (const TypedBand& band : typed) {
        HeightBand read;
        for (const auto& [text, number] : {std::pair(&band.from, &read.from_mm), std::pair(&band.to, &read.to_mm),
                                           std::pair(&band.layer, &read.layer_mm)}) {
            const auto value = evaluate_expression(*text, QuantityKind::Length, values);
            if (!value) return pass_on(value);
            *number = *value;
        }
        bands.push_back(read);
    }
    if (auto wrong = check_bands(bands)) return pass_on(*wrong);
    return bands;
}

Expected<TypedBand> band_typed(const std::string& text) {
    const size_t to = text.find(" to "), by = to == std::string::npos ? to : text.find(" by ", to);
    if (by == std::string::npos)
        return problem(ProblemCode::Range, "It is not said from where to where, and how high the layers are.",
                       "Say it as: 10 to 14 by 0.12");
    std::string from = trimmed(text.substr(0, to));
    if (from.rfind("from ", 0) == 0) from = trimmed(from.substr(5));
    return TypedBand{from, trimmed(text.substr(to + 4, by - to - 4)), trimmed(text.substr(by + 4))};
}

std::string band_words(const TypedBand& band) {
    auto with_unit = [](const std::string& text) {
        return text.find_first_not_of("0123456789.") == std::string::npos ? text + " mm" : text;
    };
    return "layers of " + with_unit(band.layer) + " from " + with_unit(band.from) + " to " + with_unit(band.to);
}

LayerHeights layer_heights(const Project& project, const Part& part, const ParameterValues& values) {
    LayerHeights heights{project.printer.layer_height_mm, project.printer.first_layer_mm};
    if (auto bands = height_bands(part.bands, values)) heights.bands = std::move(*bands);
    return heights;
}

LayerHeights layer_heights(const Project& project, const Part& part) {
    if (part.bands.empty()) return layer_heights(project, part, {});
    return layer_heights(project, part, project_values(project).value_or(ParameterValues()));
}

LayerHeights layer_heights(const Evaluation& evaluation, PartId id) {
    const PartPtr part = evaluation.project->part(id);
    return part ? layer_heights(*evaluation.project, *part, evaluation.values) : LayerHeights();
}

} // namespace lp
