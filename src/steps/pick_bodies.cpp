#include "steps/pick_bodies.h"
#include "base/text.h"
#include <algorithm>

namespace lp {

Expected<std::vector<size_t>> pick_bodies(const std::vector<StepBody>& bodies, const std::string& names,
                                          const char* verb) {
    std::vector<size_t> chosen;
    if (bodies.empty())
        return problem(ProblemCode::Missing, std::string("There is no body yet to ") + verb + ".",
                       "Put a solid before this step.");
    for (const std::string& name : listed(names, ',')) {
        if (name == "all") {
            for (size_t i = 0; i < bodies.size(); ++i) chosen.push_back(i);
            continue;
        }
        size_t found = chosen.size(); // all that bear the name, or that its step made
        for (size_t i = 0; i < bodies.size(); ++i)
            if (bodies[i].name == name) chosen.push_back(i);
        if (chosen.size() == found)
            for (size_t i = 0; i < bodies.size(); ++i)
                if (to_text(bodies[i].made_by) == name) chosen.push_back(i);
        if (chosen.size() == found) {
            std::vector<std::string> there;
            for (const StepBody& body : bodies) there.push_back(body.called());
            return problem(ProblemCode::Missing, "There is no body called \"" + name + "\" here.",
                           "There are: " + joined(there) + ".");
        }
    }
    std::vector<size_t> unique;
    for (size_t i : chosen)
        if (std::find(unique.begin(), unique.end(), i) == unique.end()) unique.push_back(i);
    return unique;
}

std::vector<size_t> with_copies(const std::vector<StepBody>& bodies, std::vector<size_t> chosen) {
    const std::vector<size_t> named = chosen;
    for (size_t i : named)
        for (size_t k = 0; k < bodies.size(); ++k) {
            const std::string &name = bodies[i].called(), &other = bodies[k].called();
            if (other.size() <= name.size() + 1 || other.compare(0, name.size() + 1, name + " ") != 0) continue;
            const std::string number = other.substr(name.size() + 1);
            const bool counted = std::all_of(number.begin(), number.end(), [](char c) { return c >= '0' && c <= '9'; });
            if (counted && std::find(chosen.begin(), chosen.end(), k) == chosen.end()) chosen.push_back(k);
        }
    return chosen;
}

} // namespace lp
