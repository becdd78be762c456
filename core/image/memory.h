#pragma once
/// Where samples live. Fresh memory costs the system as much as three copies of a picture, so blocks that are given
/// back are kept for the next picture of their size.
#include <cstddef>
#include <memory>

namespace fexel {

/// Gives a block back.
struct GiveBack {
  std::size_t size = 0;
  void operator()(std::byte* block) const;
};
using Block = std::unique_ptr<std::byte[], GiveBack>;

/// A block of at least `size` bytes, aligned to 64, its contents unset; 64 bytes behind its end may be read. Raises
/// std::bad_alloc. At most four blocks that nobody uses are kept, of 512 MB together.
Block take_block(std::size_t size);

/// Keeps fewer bytes than usual of what is given back, for as long as it lives: for work that has little memory.
class KeptBlocksLimit {
 public:
  explicit KeptBlocksLimit(std::size_t bytes);
  ~KeptBlocksLimit();
  KeptBlocksLimit(const KeptBlocksLimit&) = delete;
  KeptBlocksLimit& operator=(const KeptBlocksLimit&) = delete;

 private:
  std::size_t before_;
};

}  // namespace fexel
