// Bodies of an exact file as objects. Included only by formats/*.cpp.
#pragma once
#include "formats/formats.h"
#include "shape/step_file.h"

namespace lp {

inline Expected<std::vector<FileObject>> exact_objects(Expected<std::vector<StepFileBody>> bodies) {
    if (!bodies) return pass_on(bodies);
    std::vector<FileObject> objects;
    for (StepFileBody& one : *bodies) {
        FileObject object;
        object.name = std::move(one.name);
        object.exact = std::move(one.body);
        if (one.colour) object.colour = *one.colour;
        objects.push_back(std::move(object));
    }
    return objects;
}

} // namespace lp
