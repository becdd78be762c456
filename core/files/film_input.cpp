#include "files/film_input.h"

#include "base/error.h"

extern "C" {
#include <libavutil/crc.h>
}

namespace fexel {

FilmInput::FilmInput(const std::filesystem::path& path) : in_(path, std::ios::binary) {
  if (!in_) throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  std::error_code code;
  size_ = static_cast<std::int64_t>(std::filesystem::file_size(path, code));
  constexpr int buffer = 64 * 1024;
  context_ = ::avio_alloc_context(static_cast<unsigned char*>(::av_malloc(buffer)), buffer, 0, this, &FilmInput::read,
                                  nullptr, &FilmInput::seek);
}

FilmInput::~FilmInput() {
  ::av_freep(&context_->buffer);
  ::avio_context_free(&context_);
}

int FilmInput::read(void* self, std::uint8_t* to, int size) {
  auto& in = static_cast<FilmInput*>(self)->in_;
  in.clear();
  in.read(reinterpret_cast<char*>(to), size);
  const auto got = static_cast<int>(in.gcount());
  return got > 0 ? got : AVERROR_EOF;
}

std::int64_t FilmInput::seek(void* self, std::int64_t offset, int whence) {
  auto* film = static_cast<FilmInput*>(self);
  if ((whence & AVSEEK_SIZE) != 0) return film->size_;
  film->in_.clear();
  const auto from = (whence & 3) == SEEK_CUR ? std::ios::cur : (whence & 3) == SEEK_END ? std::ios::end : std::ios::beg;
  film->in_.seekg(offset, from);
  return film->in_ ? static_cast<std::int64_t>(film->in_.tellg()) : -1;
}

bool checksums_hold(const AVPacket& packet) {
  constexpr int trailer = 8;
  const AVCRC* table = ::av_crc_get_table(AV_CRC_32_IEEE);
  for (int end = packet.size; end > 0;) {
    if (end < trailer) return false;
    const std::uint8_t* t = packet.data + end - trailer;
    const int size = (t[0] << 16 | t[1] << 8 | t[2]) + trailer;
    if (size > end || ::av_crc(table, 0, packet.data + end - size, static_cast<std::size_t>(size)) != 0) return false;
    end -= size;
  }
  return true;
}

}  // namespace fexel
