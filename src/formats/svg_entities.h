// Entities that an XML file declares itself, put in where they are named: drawing programs write such files, and the
// parser leaves them out.
#pragma once
#include "base/problem.h"
#include <set>

namespace lp {

struct WithEntities {
    std::string text;           ///< the file without its document type, entities put in; not set when none are used
    std::set<std::string> used; ///< names of those that were put in
};

/// Refused: entities from elsewhere (nothing is fetched), and those that name themselves or come to more than `most`
/// bytes.
Expected<WithEntities> with_entities(const std::string& xml, size_t most);

} // namespace lp
