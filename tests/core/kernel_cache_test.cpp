// Answers of the kernel kept on disk: the same bodies again, and nothing believed that is damaged or of somebody else.
#include "made_project.h"
#include "shape/kernel_cache.h"
#include "test_meshes.h"
#include <fstream>
#include <random>

namespace lp {
namespace {

namespace fs = std::filesystem;
using test::block;
using test::json;
using test::make;
using test::step;

std::string contents(const fs::path& path) {
    std::ifstream file(path, std::ios::binary);
    return {std::istreambuf_iterator<char>(file), {}};
}
void put(const fs::path& path, const std::string& bytes) {
    std::ofstream(path, std::ios::binary) << bytes;
}
size_t files_in(const fs::path& folder) {
    size_t n = 0;
    for (const auto& entry : fs::directory_iterator(folder)) n += entry.is_regular_file();
    return n;
}

TEST(KernelCache, AnswersWhatItKeptAndNothingElse) {
    test::Folder folder;
    KernelCache cache(folder / "kernel", "one");
    EXPECT_FALSE(cache.find("a question"));
    cache.keep("a question", std::string("an\0swer", 7));
    EXPECT_EQ(cache.find("a question"), std::string("an\0swer", 7));
    EXPECT_FALSE(cache.find("another question"));
    EXPECT_FALSE(KernelCache(folder / "kernel", "another program").find("a question"));
    EXPECT_EQ(KernelCache(folder / "kernel", "one").find("a question"), std::string("an\0swer", 7)) << "the next start";
    EXPECT_EQ(files_in(folder / "kernel"), 1u) << "nothing is left beside it";
}

TEST(KernelCache, ADamagedOrForeignFileCountsAsNotThere) {
    test::Folder folder;
    KernelCache cache(folder / "kernel", "one");
    std::string answer(5000, 'x');
    for (size_t i = 0; i < answer.size(); ++i) answer[i] = char(i * 31);
    cache.keep("q", answer);
    const fs::path file = cache.file_of("q");
    const std::string whole = contents(file);
    for (size_t bit = 0; bit < whole.size() * 8; bit += 97) {
        std::string damaged = whole;
        damaged[bit / 8] = char(damaged[bit / 8] ^ (1 << bit % 8));
        put(file, damaged);
        EXPECT_FALSE(cache.find("q")) << "bit " << bit;
    }
    for (size_t cut : {size_t(0), size_t(7), size_t(39), size_t(40), whole.size() - 1}) {
        put(file, whole.substr(0, cut));
        EXPECT_FALSE(cache.find("q")) << "cut at " << cut;
    }
    put(file, whole + "more");
    EXPECT_FALSE(cache.find("q"));
    put(file, std::string(1 << 20, '\xff'));
    EXPECT_FALSE(cache.find("q"));
    cache.keep("q", answer);
    EXPECT_EQ(cache.find("q"), answer) << "kept anew, it is there again";
    // The file of one question under the name of another.
    cache.keep("r", "of r");
    fs::copy_file(cache.file_of("r"), file, fs::copy_options::overwrite_existing);
    EXPECT_FALSE(cache.find("q"));
}

TEST(KernelCache, StaysWithinItsLimitAndKeepsWhatIsAskedFor) {
    test::Folder folder;
    constexpr uint64_t limit = 64 << 10;
    KernelCache cache(folder / "kernel", "one", limit);
    cache.keep("asked for again", "yes");
    for (int i = 0; i < 200; ++i) {
        cache.keep("q" + std::to_string(i), std::string(2000, 'x'));
        ASSERT_TRUE(cache.find("asked for again")) << i;
    }
    uint64_t total = 0;
    for (const auto& entry : fs::directory_iterator(folder / "kernel")) total += entry.file_size();
    EXPECT_LE(total, limit + limit / 4);
    EXPECT_FALSE(cache.find("q0")) << "the oldest went";
    EXPECT_TRUE(cache.find("q199"));
    cache.keep("huge", std::string(limit, 'x'));
    EXPECT_FALSE(cache.find("huge")) << "one alone does not push the others out";
}

TEST(KernelCache, AFolderThatCannotBeWrittenIsOnlySlower) {
    test::Folder folder;
    put(folder / "file", "no folder");
    KernelCache cache(folder / "file", "one");
    cache.keep("q", "a");
    EXPECT_FALSE(cache.find("q"));
    EXPECT_EQ(contents(folder / "file"), "no folder");
}

/// The cache in use while it lives.
struct InUse {
    explicit InUse(const fs::path& folder) {
        use_kernel_cache(std::make_shared<KernelCache>(folder, kernel_made_by()));
    }
    ~InUse() { use_kernel_cache(nullptr); }
};

TEST(KernelCache, APartMadeAgainIsTheVerySame) {
    test::Folder folder;
    InUse cache(folder / "kernel");
    auto tray = [](double wall) {
        return make(
            {block(40, 30, 20), step("fillet", {{"edges", "upright"}, {"radius", "3 mm"}}),
             step("shell", {{"open", "top of b"}, {"wall", std::to_string(wall) + " mm"}}),
             step("cylinder", {{"diameter", "6 mm"}, {"height", "60 mm"}, {"at_z", "-5 mm"}, {"does", "cut"}})});
    };
    const auto first = tray(2);
    ASSERT_EQ(first.says(), "");
    const size_t kept = files_in(folder / "kernel");
    EXPECT_GT(kept, 0u);
    const auto again = tray(2);
    EXPECT_EQ(files_in(folder / "kernel"), kept) << "every answer was there";
    EXPECT_EQ(again.says(), "");
    EXPECT_DOUBLE_EQ(again.volume(), first.volume());
    ASSERT_EQ(again.part().mesh->triangles.size(), first.part().mesh->triangles.size());
    EXPECT_EQ(again.part().mesh->triangles, first.part().mesh->triangles);
    const auto other = tray(2.5);
    EXPECT_NE(other.volume(), first.volume()) << "another question has another answer";
    // Every file damaged: all is worked out anew, and right.
    std::mt19937 random(3);
    for (const auto& entry : fs::directory_iterator(folder / "kernel")) {
        std::string bytes = contents(entry.path());
        bytes[random() % bytes.size()] ^= 0x10;
        put(entry.path(), bytes);
    }
    const auto anew = tray(2);
    EXPECT_EQ(anew.says(), "");
    EXPECT_DOUBLE_EQ(anew.volume(), first.volume());
}

} // namespace
} // namespace lp
