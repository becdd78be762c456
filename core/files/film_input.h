#pragma once
/// The bytes of a film, for the codec library.
#include <cstdint>
#include <filesystem>
#include <fstream>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

namespace fexel {

/// A file that only this film reads: what is in it opens no other one.
class FilmInput {
 public:
  /// Raises an input error for a file that cannot be opened.
  explicit FilmInput(const std::filesystem::path& path);
  ~FilmInput();
  FilmInput(const FilmInput&) = delete;
  FilmInput& operator=(const FilmInput&) = delete;
  AVIOContext* context() const { return context_; }

 private:
  static int read(void* self, std::uint8_t* to, int size);
  static std::int64_t seek(void* self, std::int64_t offset, int whence);
  std::ifstream in_;
  std::int64_t size_ = 0;
  AVIOContext* context_ = nullptr;
};

/// Whether all slices of an FFV1 packet have the checksum that they say. Each slice ends with its size, in three bytes,
/// a byte of status and its CRC-32, which makes that of the whole slice zero (RFC 9043, 4.9).
bool checksums_hold(const AVPacket& packet);

}  // namespace fexel
