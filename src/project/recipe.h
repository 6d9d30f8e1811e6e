// The steps of one part that begins with a file, for another file: a newer one in its place, or copies for its
// siblings.
#pragma once
#include "base/task.h"
#include "project/edit.h"

namespace lp {

struct NamedFile {
    std::string name;
    std::shared_ptr<const std::string> bytes;
};

/// The step of a part that brings in a file; none where it has none.
const Step* import_step(const Part& part);

/// `name`, or with a number before it where another file of the project is called so.
std::string free_file_name(const Project& project, const std::string& name, const std::string& bytes);

/// The file in the place of the part's own; all later steps stay. It stands so that the middle of its box (from above)
/// and its lowest place are where the old one's were. Problems: a part without a file, files that cannot be read.
Expected<Edit> replaced_file(const Project& project, PartId part, const NamedFile& file);

/// A copy of the part with the same steps for each file, named after it, each standing as replaced_file() says.
struct Siblings {
    Edit edit;
    std::vector<std::string> parts;    ///< names of the new parts
    std::vector<std::string> left_out; ///< a sentence for each file that cannot be read
};
Expected<Siblings> same_steps_for(const Project& project, PartId part, const std::vector<NamedFile>& files,
                                  const Task& task = {});

} // namespace lp
