#include "image/memory.h"

#include <algorithm>
#include <mutex>
#include <new>
#include <vector>

namespace fexel {
namespace {

constexpr std::size_t smallest_kept = 1 << 18;
constexpr std::size_t max_kept_bytes = std::size_t{512} << 20;
constexpr std::size_t max_kept = 4;
constexpr std::size_t read_behind = 64;
constexpr std::align_val_t alignment{64};

#ifdef __SANITIZE_ADDRESS__
constexpr bool keeps = false;  // a block that is used again hides whoever still reads the old one
#else
constexpr bool keeps = true;
#endif

class Shelf {
 public:
  /// A kept block of `size` up to a half more, or nothing.
  Block find(std::size_t size) {
    const std::scoped_lock lock(mutex_);
    const auto fits = [size](const Snapshot& kept) { return kept.size >= size && kept.size - size <= size / 2; };
    const auto found = std::ranges::find_if(kept_, fits);
    if (found == kept_.end()) return {};
    Block block(found->samples, GiveBack{found->size});
    kept_.erase(found);
    return block;
  }
  void keep(std::byte* samples, std::size_t size) {
    const std::scoped_lock lock(mutex_);
    kept_.push_back({samples, size});
    drop();
  }
  /// Returns what held before.
  std::size_t limit(std::size_t bytes) {
    const std::scoped_lock lock(mutex_);
    std::swap(bytes, limit_);
    drop();
    return bytes;
  }

 private:
  void drop() {
    while (kept_.size() > max_kept || bytes() > limit_) {
      ::operator delete[](kept_.front().samples, alignment);
      kept_.erase(kept_.begin());
    }
  }
  struct Snapshot {
    std::byte* samples;
    std::size_t size;
  };
  std::size_t bytes() const {
    std::size_t sum = 0;
    for (const Snapshot& kept : kept_) sum += kept.size;
    return sum;
  }
  std::mutex mutex_;
  std::vector<Snapshot> kept_;
  std::size_t limit_ = max_kept_bytes;
};

/// Lives as long as the process, so that pictures may die in any order at its end.
Shelf& shelf() {
  static auto* const made = new Shelf;
  return *made;
}

}  // namespace

void GiveBack::operator()(std::byte* block) const {
  if (keeps && size >= smallest_kept)
    shelf().keep(block, size);
  else
    ::operator delete[](block, alignment);
}

KeptBlocksLimit::KeptBlocksLimit(std::size_t bytes) : before_(shelf().limit(bytes)) {}
KeptBlocksLimit::~KeptBlocksLimit() {
  shelf().limit(before_);
}

Block take_block(std::size_t size) {
  if (keeps && size >= smallest_kept)
    if (Block kept = shelf().find(size)) return kept;
  return Block(static_cast<std::byte*>(::operator new[](size + read_behind, alignment)), GiveBack{size});
}

}  // namespace fexel
