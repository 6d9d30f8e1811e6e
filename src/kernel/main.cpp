// loose-peg-kernel: runs kernel calls for the programs, one after the other, so that a crash or a hang of the geometry
// kernel takes nothing else with it. Speaks over file descriptor 3 (see shape/kernel_guard.cpp); of no use by hand.
#include "kernel/brep_file.h"
#include "kernel/step_file.h"
#include "shape/kernel_call.h"
#include <BRepTools_ReShape.hxx>
#include <TopExp_Explorer.hxx>
#include <csignal>
#include <cstdint>
#include <poll.h>
#include <thread>
#include <unistd.h>

using namespace lp;

namespace {

bool read_all(char* data, size_t size) {
    for (size_t done = 0; done < size;) {
        ssize_t n = read(3, data + done, size - done);
        if (n <= 0) return false;
        done += size_t(n);
    }
    return true;
}

bool write_all(const char* data, size_t size) {
    for (size_t done = 0; done < size;) {
        ssize_t n = write(3, data + done, size - done);
        if (n <= 0) return false;
        done += size_t(n);
    }
    return true;
}

/// What a bad kernel would do, for the tests of the guard.
Expected<KernelAnswer> answer(KernelCall& call) {
    auto is = [&](const char* how) {
        std::string prefix = std::string(how) + " ";
        if (call.what.rfind(prefix, 0) != 0) return false;
        call.what.erase(0, prefix.size());
        return true;
    };
    if (is("crash")) raise(SIGSEGV);
    if (is("hang"))
        while (true) pause();
    if (call.what == "write step") return write_step(call);
    if (call.what == "read step") return read_step(call);
    if (call.what == "read brep") return read_brep(call);
    bool lie = is("lie");
    call.own_copies = true;
    auto result = perform(call);
    if (!lie || !result) return result;
    BRepTools_ReShape without;
    without.Remove(TopExp_Explorer(result->shape, TopAbs_FACE).Current());
    result->shape = without.Apply(result->shape);
    result->origins.erase(result->origins.begin());
    return result;
}

} // namespace

/// Ends this process with the one that asks, also in the middle of a call. The system's own way would end it with the
/// thread that began it, which is gone long before.
void end_with_the_other_side() {
    std::thread([] {
        pollfd other{3, 0, 0}; // that it hung up is told unasked
        while (poll(&other, 1, -1) < 0 || !(other.revents & (POLLHUP | POLLERR | POLLNVAL))) {
        }
        _exit(0);
    }).detach();
}

int main() {
    end_with_the_other_side();
    std::signal(SIGPIPE, SIG_IGN);
    uint64_t size = 0;
    while (read_all(reinterpret_cast<char*>(&size), sizeof size)) {
        std::string question(size, '\0');
        if (!read_all(question.data(), size)) return 1;
        auto call = call_from_bytes(question);
        const auto answered = call ? answer(*call) : Expected<KernelAnswer>(pass_on(call));
        std::string reply = to_bytes(answered);
        size = reply.size();
        if (!write_all(reinterpret_cast<const char*>(&size), sizeof size) || !write_all(reply.data(), reply.size()))
            return 1;
    }
    return 0;
}
