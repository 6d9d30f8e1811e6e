#include "steps/pick_bodies.h"
#include <algorithm>
#include <sstream>

namespace lp {

Expected<std::vector<size_t>> pick_bodies(const std::vector<StepBody>& bodies, const std::string& names,
                                          const char* verb) {
    std::vector<size_t> chosen;
    if (bodies.empty())
        return problem(ProblemCode::Missing, std::string("There is no body yet to ") + verb + ".",
                       "Put a solid before this step.");
    std::istringstream stream(names);
    std::string name;
    while (std::getline(stream, name, ',')) {
        name.erase(0, name.find_first_not_of(" \t"));
        name.erase(name.find_last_not_of(" \t") + 1);
        if (name == "all" || name.empty()) {
            for (size_t i = 0; i < bodies.size(); ++i) chosen.push_back(i);
            continue;
        }
        size_t found = chosen.size(); // all that bear the name, or that its step made
        for (size_t i = 0; i < bodies.size(); ++i)
            if (bodies[i].name == name) chosen.push_back(i);
        if (chosen.size() == found)
            for (size_t i = 0; i < bodies.size(); ++i)
                if (std::to_string(bodies[i].made_by) == name) chosen.push_back(i);
        if (chosen.size() == found) {
            std::string there;
            for (const StepBody& body : bodies)
                there += (there.empty() ? "" : ", ") + (body.name.empty() ? std::to_string(body.made_by) : body.name);
            return problem(ProblemCode::Missing, "There is no body called \"" + name + "\" here.",
                           "There are: " + there + ".");
        }
    }
    std::vector<size_t> unique;
    for (size_t i : chosen)
        if (std::find(unique.begin(), unique.end(), i) == unique.end()) unique.push_back(i);
    return unique;
}

} // namespace lp
