#include "shape/kernel_cache.h"
#include "base/hash.h"
#include <algorithm>
#include <cstring>
#include <fstream>
#include <unistd.h>
#include <vector>

namespace lp {

namespace fs = std::filesystem;

namespace {

constexpr uint64_t magic = 0x314b43505f504c5full; // another layout, another number

/// What stands before an answer: which question it is of, by another fingerprint than the file's name, and its own.
struct Head {
    uint64_t magic, question, question_size, answer_size, checksum;
};

uint64_t second_fingerprint(const std::string& question) {
    return hash_bytes(question.data(), question.size(), 0x9e3779b97f4a7c15ull);
}

uint64_t checksum_of(const Head& head, const std::string& answer) {
    return hash_bytes(answer.data(), answer.size(), head.question ^ head.question_size);
}

} // namespace

KernelCache::KernelCache(fs::path folder, std::string made_by, uint64_t limit_bytes)
    : folder_(std::move(folder)), made_by_(std::move(made_by)), limit_(limit_bytes), written_(limit_bytes) {}

fs::path KernelCache::file_of(const std::string& question) const {
    char name[24];
    std::snprintf(name, sizeof name, "%016llx",
                  static_cast<unsigned long long>(Hasher().add(made_by_).add(question).value()));
    return folder_ / name;
}

std::optional<std::string> KernelCache::find(const std::string& question) const {
    const fs::path path = file_of(question);
    std::ifstream file(path, std::ios::binary);
    Head head{};
    if (!file.read(reinterpret_cast<char*>(&head), sizeof head)) return std::nullopt;
    if (head.magic != magic || head.question_size != question.size() || head.question != second_fingerprint(question) ||
        head.answer_size > limit_)
        return std::nullopt;
    std::string answer(size_t(head.answer_size), '\0');
    if (!file.read(answer.data(), std::streamsize(answer.size())) || file.peek() != EOF) return std::nullopt;
    if (checksum_of(head, answer) != head.checksum) return std::nullopt;
    std::error_code error; // asked for just now: it stays longest
    fs::last_write_time(path, fs::file_time_type::clock::now(), error);
    return answer;
}

void KernelCache::keep(const std::string& question, const std::string& answer) {
    if (answer.size() > limit_ / 8) return; // one answer does not push all others out
    std::error_code error;
    fs::create_directories(folder_, error);
    const fs::path path = file_of(question);
    static std::atomic<unsigned> number{0};
    fs::path fresh = path;
    fresh += std::string(".").append(std::to_string(getpid())).append("-").append(std::to_string(number++));
    Head head{magic, second_fingerprint(question), question.size(), answer.size(), 0};
    head.checksum = checksum_of(head, answer);
    {
        std::ofstream file(fresh, std::ios::binary);
        file.write(reinterpret_cast<const char*>(&head), sizeof head);
        file.write(answer.data(), std::streamsize(answer.size()));
        if (!file.flush()) {
            file.close();
            fs::remove(fresh, error);
            return;
        }
    }
    fs::rename(fresh, path, error); // whole or not at all
    if (error) fs::remove(fresh, error);
    if (written_.fetch_add(answer.size() + sizeof head) + answer.size() > limit_ / 4) make_room();
}

/// At the first answer of a process and after every quarter of the limit.
void KernelCache::make_room() {
    written_ = 0;
    struct Kept {
        fs::file_time_type at;
        uint64_t size;
        fs::path path;
    };
    std::vector<Kept> all;
    uint64_t total = 0;
    std::error_code error;
    for (fs::directory_iterator it(folder_, error), end; !error && it != end; it.increment(error)) {
        std::error_code own;
        if (!it->is_regular_file(own)) continue;
        Kept kept{it->last_write_time(own), it->file_size(own), it->path()};
        if (own) continue;
        total += kept.size;
        all.push_back(std::move(kept));
    }
    if (total <= limit_) return;
    std::sort(all.begin(), all.end(), [](const Kept& a, const Kept& b) { return a.at < b.at; });
    for (const Kept& kept : all) {
        if (total <= limit_ * 3 / 4) break;
        if (fs::remove(kept.path, error)) total -= kept.size;
    }
}

fs::path kernel_cache_folder() {
    const char *xdg = std::getenv("XDG_CACHE_HOME"), *home = std::getenv("HOME");
    if (xdg && *xdg == '/') return fs::path(xdg) / "loose-peg" / "kernel";
    return fs::path(home && *home ? home : "/tmp") / ".cache" / "loose-peg" / "kernel";
}

} // namespace lp
