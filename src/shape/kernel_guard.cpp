#include "shape/kernel_guard.h"
#include "shape/kernel_cache.h"
#include <Standard_Version.hxx>
#include <chrono>
#include <csignal>
#include <cstdlib>
#include <fcntl.h>
#include <filesystem>
#include <memory>
#include <mutex>
#include <poll.h>
#include <spawn.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

extern char** environ;

namespace lp {
namespace {

using Clock = std::chrono::steady_clock;

std::string helper_program() {
    if (const char* named = std::getenv("LOOSE_PEG_KERNEL")) return named;
    std::error_code error;
    auto self = std::filesystem::read_symlink("/proc/self/exe", error);
    if (error) return {};
    // Beside the program where it was built; where it is installed, among the programs that nobody calls by hand.
    for (auto place : {self.parent_path(), self.parent_path().parent_path() / "libexec" / "loose-peg"})
        if (auto helper = place / "loose-peg-kernel"; std::filesystem::exists(helper, error)) return helper.string();
    return {};
}

/// The library's memory is by TBB's allocator in the helper, which threads need not wait for; unless somebody says
/// otherwise.
std::vector<char*> helper_environment() {
    static char by_tbb[] = "MMGT_OPT=2";
    std::vector<char*> all;
    bool said = false;
    for (char** one = environ; *one; ++one) {
        said = said || std::string_view(*one).substr(0, 9) == "MMGT_OPT=";
        all.push_back(*one);
    }
    if (!said) all.push_back(by_tbb);
    all.push_back(nullptr);
    return all;
}

/// One helper process and the socket to it.
class Helper {
  public:
    enum class End { Answered, Died, Late, Cancelled };

    static std::unique_ptr<Helper> start() {
        std::string program = helper_program();
        if (program.empty()) return nullptr;
        int pair[2];
        if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, pair)) return nullptr;
        posix_spawn_file_actions_t actions;
        posix_spawn_file_actions_init(&actions);
        posix_spawn_file_actions_adddup2(&actions, pair[1], 3); // the copy is not closed on exec
        char* arguments[] = {program.data(), nullptr};
        pid_t process = 0;
        int failed = posix_spawn(&process, program.c_str(), &actions, nullptr, arguments, helper_environment().data());
        posix_spawn_file_actions_destroy(&actions);
        close(pair[1]);
        if (failed) {
            close(pair[0]);
            return nullptr;
        }
        fcntl(pair[0], F_SETFL, O_NONBLOCK);
        auto helper = std::make_unique<Helper>();
        helper->process_ = process;
        helper->socket_ = pair[0];
        return helper;
    }

    Helper() = default;
    Helper(const Helper&) = delete;
    Helper& operator=(const Helper&) = delete;
    ~Helper() {
        if (socket_ >= 0) close(socket_);
        if (process_ > 0) {
            kill(process_, SIGKILL);
            waitpid(process_, nullptr, 0);
        }
    }

    End ask(const std::string& question, std::string& answer, const Task& task, Clock::time_point deadline) {
        uint64_t size = question.size();
        if (End end = transfer(reinterpret_cast<char*>(&size), sizeof size, true, task, deadline); end != End::Answered)
            return end;
        if (End end = transfer(const_cast<char*>(question.data()), question.size(), true, task, deadline);
            end != End::Answered)
            return end;
        if (End end = transfer(reinterpret_cast<char*>(&size), sizeof size, false, task, deadline);
            end != End::Answered)
            return end;
        if (size > (uint64_t(1) << 33)) return End::Died; // what it says makes no sense
        answer.resize(size);
        return transfer(answer.data(), answer.size(), false, task, deadline);
    }

    bool alive() const { return waitpid(process_, nullptr, WNOHANG) == 0; }

  private:
    End transfer(char* data, size_t size, bool sending, const Task& task, Clock::time_point deadline) {
        for (size_t done = 0; done < size;) {
            ssize_t n = sending ? send(socket_, data + done, size - done, MSG_NOSIGNAL)
                                : recv(socket_, data + done, size - done, 0);
            if (n > 0) {
                done += size_t(n);
                continue;
            }
            if (n == 0 || (errno != EAGAIN && errno != EWOULDBLOCK && errno != EINTR)) return End::Died;
            if (task.stopped()) return End::Cancelled;
            if (Clock::now() > deadline) return End::Late;
            pollfd wait{socket_, short(sending ? POLLOUT : POLLIN), 0};
            poll(&wait, 1, 20); // cancelling is noticed within a fiftieth of a second
        }
        return End::Answered;
    }

    pid_t process_ = 0;
    int socket_ = -1;
};

/// Helpers nobody uses at the moment.
class Pool {
  public:
    std::unique_ptr<Helper> take() {
        {
            std::lock_guard lock(mutex_);
            while (!idle_.empty()) {
                auto helper = std::move(idle_.back());
                idle_.pop_back();
                if (helper->alive()) return helper;
            }
        }
        return Helper::start();
    }
    void give_back(std::unique_ptr<Helper> helper) {
        std::lock_guard lock(mutex_);
        if (idle_.size() < 2) idle_.push_back(std::move(helper));
    }
    std::string take_stand_in() {
        std::lock_guard lock(mutex_);
        return std::exchange(stand_in_, {});
    }
    void set_stand_in(const std::string& what) {
        std::lock_guard lock(mutex_);
        stand_in_ = what;
    }

  private:
    std::mutex mutex_;
    std::vector<std::unique_ptr<Helper>> idle_;
    std::string stand_in_;
};

Pool& pool() {
    static Pool instance;
    return instance;
}

std::string words_for(const std::string& what) {
    if (what == "join" || what == "cut") return what == "join" ? "joining bodies" : "cutting bodies";
    if (what == "common") return "keeping what bodies have in common";
    if (what == "push") return "pushing a face";
    if (what == "remove") return "removing faces";
    return "a " + what;
}

} // namespace

namespace {

std::mutex cache_mutex;
std::shared_ptr<KernelCache> the_cache;

std::shared_ptr<KernelCache> cache_in_use() {
    std::lock_guard lock(cache_mutex);
    return the_cache;
}

} // namespace

void use_kernel_cache(std::shared_ptr<KernelCache> cache) {
    std::lock_guard lock(cache_mutex);
    the_cache = std::move(cache);
}

std::string kernel_made_by() {
    std::error_code error;
    const std::filesystem::path helper = helper_program();
    const auto size = std::filesystem::file_size(helper, error);
    const auto at = std::filesystem::last_write_time(helper, error);
    return std::string(OCC_VERSION_COMPLETE) + " " + std::to_string(size) + " " +
           std::to_string(at.time_since_epoch().count());
}

Expected<KernelAnswer> run_guarded(const KernelCall& call, const Task& task, double budget_s) {
    if (task.stopped()) return cancelled();
    std::string stand_in = pool().take_stand_in();
    const auto cache = stand_in.empty() ? cache_in_use() : nullptr;
    std::string question;
    if (cache) {
        question = to_bytes(call);
        if (auto known = cache->find(question))
            if (auto answer = answer_from_bytes(*known)) return answer;
    }
    auto helper = pool().take();
    if (!helper) {
        if (!stand_in.empty())
            return problem(ProblemCode::Missing, "The geometry kernel's own process cannot be started.",
                           "Install loose-peg-kernel beside the program.");
        return perform(call);
    }
    if (stand_in.empty()) {
        if (question.empty()) question = to_bytes(call);
    } else {
        KernelCall other = call;
        other.what = stand_in + " " + call.what;
        question = to_bytes(other);
    }
    std::string answer;
    auto deadline = Clock::now() + std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(budget_s));
    switch (helper->ask(question, answer, task, deadline)) {
    case Helper::End::Answered:
        pool().give_back(std::move(helper));
        {
            auto read = answer_from_bytes(answer);
            if (read && cache) cache->keep(question, answer); // refusals are asked again
            return read;
        }
    case Helper::End::Cancelled:
        return cancelled();
    case Helper::End::Late:
        return problem(ProblemCode::Crashed,
                       "The geometry kernel did not come back from " + words_for(call.what) + " and was stopped.",
                       "Change a size a little; everything else is as it was.");
    case Helper::End::Died:
        break;
    }
    return problem(ProblemCode::Crashed,
                   "The geometry kernel crashed while " +
                       std::string(words_for(call.what).rfind("a ", 0) == 0 ? "making " : "") + words_for(call.what) +
                       ". It was started again.",
                   "Change a size a little; nothing is lost.");
}

bool kernel_is_apart() {
    return !helper_program().empty();
}

void kernel_stand_in(const std::string& what) {
    pool().set_stand_in(what);
}

} // namespace lp
