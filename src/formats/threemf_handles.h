// The handles of lib3mf and its answers. Used by reading and writing of 3MF alone.
#pragma once
#include "base/problem.h"
#include <Common/NMR_Types.h>
#include <Model/COM/NMR_DLLInterfaces.h>

namespace lp {

/// Owns one of the library's handles.
template <class T = NMR::PLib3MFBase> class Handle {
  public:
    Handle() = default;
    Handle(const Handle&) = delete;
    Handle& operator=(const Handle&) = delete;
    ~Handle() {
        if (raw_) NMR::lib3mf_release(raw_);
    }
    T** out() { return &raw_; }
    T* get() const { return raw_; }

  private:
    T* raw_ = nullptr;
};

struct Failed {
    Problem problem;
};

inline void must(const char* what, HRESULT code) {
    if (code != 0)
        throw Failed{Problem{ProblemCode::File, std::string("The 3MF library could not ") + what + ".",
                             "The file is damaged, or holds something this version does not read."}};
}

} // namespace lp
