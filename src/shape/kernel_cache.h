// Answers of the geometry kernel kept on disk, so that a project opened again need not be worked out again. An answer
// depends on nothing but its question: the shapes, the numbers and the program that answers.
#pragma once
#include <atomic>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>

namespace lp {

/// One file an answer. What is damaged, cut off, of another program or of another question counts as not there: an
/// answer is believed only with its checksum. From any thread and from several processes at once.
class KernelCache {
  public:
    static constexpr uint64_t usual_limit_bytes = 256ull << 20;
    /// `made_by` tells programs apart that might answer differently.
    KernelCache(std::filesystem::path folder, std::string made_by, uint64_t limit_bytes = usual_limit_bytes);

    std::optional<std::string> find(const std::string& question) const;
    /// A folder that cannot be written is no error: it is only slower then. Over the limit the answers that were not
    /// asked for longest go.
    void keep(const std::string& question, const std::string& answer);
    std::filesystem::path file_of(const std::string& question) const;

  private:
    void make_room();
    std::filesystem::path folder_;
    std::string made_by_;
    uint64_t limit_;
    std::atomic<uint64_t> written_{0}; ///< since room was last made
};

/// $XDG_CACHE_HOME/loose-peg/kernel, or under ~/.cache.
std::filesystem::path kernel_cache_folder();
/// What the answers of this process' helper are told apart by: its program and the kernel's version.
std::string kernel_made_by();
/// Calls look here first from now on; null: nowhere, as at the beginning.
void use_kernel_cache(std::shared_ptr<KernelCache> cache);

} // namespace lp
