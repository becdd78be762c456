#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cmath>

#include "base/error.h"
#include "files/film.h"
#include "files/film_frames.h"
#include "files/safe_file.h"

extern "C" {
#include <libavutil/opt.h>
}

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr int ticks = 90000;    // a second
constexpr int least_side = 16;  // px; codecs go wrong below

struct FreeOutput {
  void operator()(AVFormatContext* context) const { ::avformat_free_context(context); }
};
struct FreeCodec {
  void operator()(AVCodecContext* context) const { ::avcodec_free_context(&context); }
};

}  // namespace

class FilmWriter::State {
 public:
  State(const fs::path& path, const FilmLook& look, const WriteOptions& options) : path_(path), look_(look) {
    check_target(path, options);
    if (look.bands != 1 && look.bands != 3)
      throw call_error(fmt::format("A film cannot hold {} bands.", look.bands), path.string(),
                       "Choose one band or three, with a step for bands.");
    if (look.depth == Depth::f32)
      throw call_error("A film cannot hold floating-point samples.", path.string(),
                       "Convert them to 16 or 8 bits (--depth).");
    if (look.use == FilmUse::showing && look.depth != Depth::u8)
      throw call_error("A film for showing has 8 bits.", path.string(),
                       "Convert the samples (--depth u8), or write FFV1.");
    if (look.size.width < least_side || look.size.height < least_side)
      throw call_error(fmt::format("A film's frames are at least {} x {} px.", least_side, least_side), path.string(),
                       "Write them as a TIFF.");
    // Matroska counts milliseconds: what follows faster would lie on each other.
    if (!(look.rate >= least_film_rate && look.rate <= most_film_rate))
      throw call_error("The rate of a film is 0.001 to 1000 frames a second.", "--rate", "Give another one.");
    ::av_log_set_level(AV_LOG_QUIET);
    file_ = std::make_unique<SafeFile>(path, options.replace);
    open();
  }

  ~State() {
    if (format_ && format_->pb) {
      ::av_freep(&format_->pb->buffer);
      ::avio_context_free(&format_->pb);
    }
  }

  void add(const Image& frame, std::optional<double> time) {
    if (frame.width() != look_.size.width || frame.height() != look_.size.height || frame.bands() != look_.bands ||
        frame.depth() != look_.depth)
      throw input_error(
          fmt::format("Frame {} has {} x {} px and {} bands; the film has {} x {} and {}.", count_ + 1, frame.width(),
                      frame.height(), frame.bands(), look_.size.width, look_.size.height, look_.bands),
          path_.string(), "Give frames of one size, such as by a crop step.");
    const FramePointer made = frame_of(frame, codec_->pix_fmt, scaler_);
    made->pts = std::llround(time.value_or(count_ / look_.rate) * ticks);
    if (count_ > 0 && made->pts - last_ < std::llround(ticks / most_film_rate))
      throw input_error(fmt::format("Frame {} follows the one before in less than a millisecond.", count_ + 1),
                        path_.string(), "Give a rate (--rate) in place of the frames' own times.");
    last_ = made->pts;
    made->pkt_duration = std::llround(ticks / look_.rate);
    ++count_;
    send(made.get());
  }

  void finish(const std::function<void(int)>& before_placing) {
    if (count_ == 0) throw input_error("There is no frame for the film.", path_.string(), "Choose other frames.");
    send(nullptr);
    check(::av_write_trailer(format_.get()));
    ::avio_flush(format_->pb);
    check(format_->pb->error);
    file_->flush();
    if (before_placing) before_placing(file_->descriptor());
    file_->place();
  }

 private:
  void check(int code) const {
    if (code >= 0) return;
    char text[AV_ERROR_MAX_STRING_SIZE] = {};
    ::av_strerror(code, text, sizeof text);
    throw input_error(fmt::format("The film cannot be written: {}.", text), path_.string(),
                      "Make room on the disk, or choose another folder.");
  }

  void open() {
    const bool lossless = look_.use == FilmUse::lossless;
    const bool web = path_.extension() == ".webm";
    AVFormatContext* format = nullptr;
    check(::avformat_alloc_output_context2(&format, nullptr, web ? "webm" : "matroska", nullptr));
    format_.reset(format);
    constexpr int buffer = 64 * 1024;
    format->pb = ::avio_alloc_context(static_cast<unsigned char*>(::av_malloc(buffer)), buffer, 1, this, nullptr,
                                      &State::write, &State::seek);
    format->flags |= AVFMT_FLAG_CUSTOM_IO | AVFMT_FLAG_BITEXACT;
    const AVCodec* codec =
        lossless ? ::avcodec_find_encoder(AV_CODEC_ID_FFV1) : ::avcodec_find_encoder_by_name("libvpx-vp9");
    if (!codec)
      throw input_error("The codec library here does not write this kind of film.", path_.string(),
                        "Write FFV1 (.mkv).");
    codec_.reset(::avcodec_alloc_context3(codec));
    codec_->width = look_.size.width;
    codec_->height = look_.size.height;
    codec_->time_base = {1, ticks};
    codec_->framerate = ::av_d2q(look_.rate, 1000000);
    codec_->pix_fmt = lossless ? lossless_format(look_.bands, look_.depth, look_.largest) : AV_PIX_FMT_YUV420P;
    codec_->flags |= AV_CODEC_FLAG_BITEXACT;
    if ((format->oformat->flags & AVFMT_GLOBALHEADER) != 0) codec_->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
    if (lossless) {
      codec_->level = 3;
      codec_->gop_size = 1;
      codec_->slices = look_.size.height >= 64 && look_.size.width >= 64 ? 4 : 0;
      ::av_opt_set_int(codec_->priv_data, "slicecrc", 1, 0);
    } else {
      codec_->color_range = AVCOL_RANGE_MPEG;
      codec_->colorspace = AVCOL_SPC_BT709;
      codec_->color_primaries = AVCOL_PRI_BT709;
      codec_->color_trc = AVCOL_TRC_IEC61966_2_1;
      codec_->bit_rate = 0;
      ::av_opt_set(codec_->priv_data, "crf", "18", 0);
      ::av_opt_set(codec_->priv_data, "deadline", "good", 0);
      ::av_opt_set(codec_->priv_data, "cpu-used", "4", 0);
      ::av_opt_set(codec_->priv_data, "row-mt", "1", 0);
    }
    codec_->thread_count = 0;
    check(::avcodec_open2(codec_.get(), codec, nullptr));
    stream_ = ::avformat_new_stream(format, nullptr);
    stream_->time_base = codec_->time_base;
    stream_->avg_frame_rate = codec_->framerate;
    if (look_.largest > 0) ::av_dict_set(&stream_->metadata, largest_tag, std::to_string(look_.largest).c_str(), 0);
    check(::avcodec_parameters_from_context(stream_->codecpar, codec_.get()));
    check(::avformat_write_header(format, nullptr));
  }

  void send(const AVFrame* frame) {
    check(::avcodec_send_frame(codec_.get(), frame));
    AVPacket* packet = ::av_packet_alloc();
    int code = 0;
    while ((code = ::avcodec_receive_packet(codec_.get(), packet)) >= 0) {
      ::av_packet_rescale_ts(packet, codec_->time_base, stream_->time_base);
      packet->stream_index = stream_->index;
      code = ::av_interleaved_write_frame(format_.get(), packet);
      if (code < 0) break;
    }
    ::av_packet_free(&packet);
    if (code != AVERROR(EAGAIN) && code != AVERROR_EOF) check(code);
    check(format_->pb->error);
  }

  static int write(void* self, std::uint8_t* data, int size) {
    const int descriptor = static_cast<State*>(self)->file_->descriptor();
    for (int done = 0; done < size;) {
      const ssize_t wrote = ::write(descriptor, data + done, static_cast<std::size_t>(size - done));
      if (wrote < 0 && errno == EINTR) continue;
      if (wrote <= 0) return AVERROR(wrote < 0 ? errno : EIO);
      done += static_cast<int>(wrote);
    }
    return size;
  }
  static std::int64_t seek(void* self, std::int64_t offset, int whence) {
    const int descriptor = static_cast<State*>(self)->file_->descriptor();
    if ((whence & AVSEEK_SIZE) != 0) {
      const off_t here = ::lseek(descriptor, 0, SEEK_CUR), end = ::lseek(descriptor, 0, SEEK_END);
      ::lseek(descriptor, here, SEEK_SET);
      return end;
    }
    return ::lseek(descriptor, offset, whence & 3);
  }

  fs::path path_;
  FilmLook look_;
  std::unique_ptr<SafeFile> file_;
  std::unique_ptr<AVFormatContext, FreeOutput> format_;
  std::unique_ptr<AVCodecContext, FreeCodec> codec_;
  AVStream* stream_ = nullptr;
  Scaler scaler_;
  int count_ = 0;
  std::int64_t last_ = 0;
};

FilmWriter::FilmWriter(const fs::path& path, const FilmLook& look, const WriteOptions& options)
    : state_(std::make_unique<State>(path, look, options)) {}
FilmWriter::~FilmWriter() = default;

void FilmWriter::add(const Image& frame, std::optional<double> time) {
  state_->add(frame, time);
}

void FilmWriter::finish(const std::function<void(int)>& before_placing) {
  state_->finish(before_placing);
}

}  // namespace fexel
