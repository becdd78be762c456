#include "files/film.h"

#include <algorithm>
#include <cmath>
#include <cstdlib>
#include <cstring>
#include <deque>
#include <list>
#include <mutex>
#include <set>

#include "files/codec.h"
#include "files/film_frames.h"
#include "files/film_input.h"
#include "files/orientation.h"

extern "C" {
#include <libavutil/parseutils.h>
}

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr int most_frames = 20'000'000;
constexpr std::size_t tried_for_checksums = 16;  // packets
constexpr std::size_t most_kept = 16;            // frames that were decoded last
constexpr std::int64_t kept_bytes = 192LL * 1024 * 1024;
constexpr const char* readable =
    "matroska,webm,mov,mp4,m4a,3gp,3g2,mj2,avi,mpegts,mpeg,mpegvideo,ogg,yuv4mpegpipe,asf,dv,mxf,nut,flv,h264,hevc";

std::string words_of(int code) {
  char text[AV_ERROR_MAX_STRING_SIZE] = {};
  ::av_strerror(code, text, sizeof text);
  return text;
}

/// A packet of the picture stream, in the order of the file.
struct Packet {
  std::int64_t stamp;  // of presentation
  std::int64_t decode;
  bool key;
};

}  // namespace

class Film::State {
 public:
  State(const fs::path& path, const Limits& limits, const Job& job) : path_(path), input_(path), job_(&job) {
    ::av_log_set_level(AV_LOG_QUIET);
    open();
    describe(limits);
    list_frames();
    if (order_.empty()) throw codec::broken(path_, "The film has no frame that can be read.");
    look_at_end();
    if (order_.empty()) throw codec::broken(path_, "The film has no frame that can be read.");
    info_.frames = static_cast<int>(order_.size());
    job_ = nullptr;
  }

  Image read(int index, const Job& job) {
    const std::scoped_lock lock(mutex_);
    job_ = &job;
    const auto free = [this](const Job*) { job_ = nullptr; };
    const std::unique_ptr<const Job, decltype(free)> held(&job, free);
    const auto frame = decoded(order_[static_cast<std::size_t>(index)].stamp, index);
    job.check();
    Image image = picture_of(*frame, *codec_, scaler_);
    if (orientation_ != 1) image = codec::upright(image, orientation_);
    // Streams may change their size or form on the way; who asks has counted on the first frame's.
    if (image.width() != info_.width || image.height() != info_.height || image.bands() != info_.bands ||
        image.depth() != info_.depth)
      throw input_error(
          fmt::format("Frame {} of the film has {} x {} px and {} bands; the first has {} x {} and {}.", index + 1,
                      image.width(), image.height(), image.bands(), info_.width, info_.height, info_.bands),
          path_.string(), "Leave the frame out, or save the film anew in one size.");
    if (info_.largest > 0) image.set_largest(info_.largest);
    return image;
  }

  FileInfo info_;
  std::vector<std::string> notes_;
  struct Frame {
    std::int64_t stamp;
  };
  std::vector<Frame> order_;  // as they are shown
  double second_ = 1;         // of the stream's stamps

 private:
  [[noreturn]] void fail(const std::string& what, int code) const {
    if (job_) job_->check();
    throw codec::broken(path_, what + " (" + words_of(code) + ").");
  }

  void open() {
    AVFormatContext* format = ::avformat_alloc_context();
    format->pb = input_.context();
    format->flags |= AVFMT_FLAG_CUSTOM_IO;
    format->interrupt_callback = {[](void* self) -> int {
                                    const Job* job = static_cast<State*>(self)->job_;
                                    return job != nullptr && job->stop.stop_requested();
                                  },
                                  this};
    AVDictionary* options = nullptr;
    ::av_dict_set(&options, "format_whitelist", readable, 0);
    ::av_dict_set(&options, "enable_drefs", "0", 0);
    const int opened = ::avformat_open_input(&format, nullptr, nullptr, &options);
    ::av_dict_free(&options);
    if (opened < 0) fail("This is not a film that can be read", opened);
    format_.reset(format);
    format->max_analyze_duration = 5 * AV_TIME_BASE;
    if (const int code = ::avformat_find_stream_info(format, nullptr); code < 0)
      fail("The film does not say what is in it", code);
    const AVCodec* codec = nullptr;
    stream_ = ::av_find_best_stream(format, AVMEDIA_TYPE_VIDEO, -1, -1, &codec, 0);
    if (stream_ < 0 || codec == nullptr)
      throw input_error("There are no pictures in this film, or they are in a form that is not known here.",
                        path_.string(), "Save it as H.264, VP9, FFV1 or uncompressed.");
    for (unsigned i = 0; i < format->nb_streams; ++i)
      if (static_cast<int>(i) != stream_) format->streams[i]->discard = AVDISCARD_ALL;
    second_ = 1 / av_q2d(stream()->time_base);
    open_decoder(codec);
  }

  void open_decoder(const AVCodec* codec) {
    codec_.reset(::avcodec_alloc_context3(codec));
    ::avcodec_parameters_to_context(codec_.get(), stream()->codecpar);
    codec_->pkt_timebase = stream()->time_base;
    codec_->thread_count = 0;
    // A frame whose checksum is wrong is an error, and not a guess.
    codec_->err_recognition |= AV_EF_CRCCHECK;
    if (codec->id == AV_CODEC_ID_FFV1) codec_->err_recognition |= AV_EF_EXPLODE;
    // The same pixels wherever decoding began.
    codec_->flags |= AV_CODEC_FLAG_BITEXACT;
    if (const int code = ::avcodec_open2(codec_.get(), codec, nullptr); code < 0)
      fail("The film's pictures cannot be decoded", code);
  }

  AVStream* stream() const { return format_->streams[stream_]; }

  void describe(const Limits& limits) {
    info_.format = "film";
    info_.width = codec_->width;
    info_.height = codec_->height;
    const PixelKind kind = kind_of(codec_->pix_fmt);
    if (kind.bits == 0)
      throw input_error("The film's pixels are in a form that is not known here.", path_.string(),
                        "Save it as H.264, VP9, FFV1 or uncompressed.");
    info_.bands = kind.grey ? 1 : 3;
    info_.depth = kind.bits > 8 ? Depth::u16 : Depth::u8;
    info_.largest = kind.bits > 8 && kind.bits < 16 ? (1 << kind.bits) - 1 : 0;
    if (const AVDictionaryEntry* said = ::av_dict_get(stream()->metadata, largest_tag, nullptr, 0)) {
      // A film of Fexel says what its samples mean, as its pictures do.
      const int value = std::atoi(said->value);
      if (value > 0 && value < (info_.depth == Depth::u8 ? 255 : 65535)) info_.largest = value;
    }
    codec::check_size(path_, info_, limits);
    orientation_ = orientation_of(*stream());
    info_.orientation = orientation_;
    if (codec::swaps_sides(orientation_)) std::swap(info_.width, info_.height);
    if (codec_->field_order != AV_FIELD_PROGRESSIVE && codec_->field_order != AV_FIELD_UNKNOWN)
      notes_.emplace_back("The film is interlaced: even and odd rows were taken at different times.");
    const AVRational aspect = stream()->codecpar->sample_aspect_ratio;
    if (aspect.num > 0 && aspect.den > 0 && aspect.num != aspect.den)
      notes_.push_back(
          fmt::format("Its pixels are {} : {} wide to high: lengths along x and y differ.", aspect.num, aspect.den));
    if (kind.alpha) notes_.emplace_back("Its alpha is not used: what it hides is shown.");
    if (kind.mosaic) notes_.emplace_back("Its colours were filled in between the places of a colour filter.");
    colours_ = colours_of(*codec_);
    if (!kind.rgb && !kind.grey) {
      info_.converted = "YUV (" + colours_.said + ")";
      if (colours_.guessed) notes_.push_back("The film does not say its colours; taken: " + colours_.said + ".");
    }
  }

  void list_frames() {
    const std::unique_ptr<AVPacket, FreePacket> packet(::av_packet_alloc());
    bool stamped = true, all_keys = true;
    int code = 0;
    while ((code = ::av_read_frame(format_.get(), packet.get())) >= 0) {
      if (job_->stop.stop_requested()) throw cancelled_error();
      if (packet->stream_index == stream_ && (packet->flags & AV_PKT_FLAG_DISCARD) == 0 && packet->size > 0) {
        const std::int64_t decode = packet->dts != AV_NOPTS_VALUE ? packet->dts : packet->pts;
        stamped = stamped && packet->pts != AV_NOPTS_VALUE;
        const bool key = (packet->flags & AV_PKT_FLAG_KEY) != 0;
        if (codec_->codec_id == AV_CODEC_ID_FFV1 && packets_.size() < tried_for_checksums)
          has_checksums_ = has_checksums_ || checksums_hold(*packet);
        all_keys = all_keys && key;
        packets_.push_back({packet->pts, decode, key});
        if (packets_.size() > most_frames)
          throw codec::broken(path_, "The film says more frames than a film can have.");
      }
      ::av_packet_unref(packet.get());
    }
    cut_ = code != AVERROR_EOF || stream()->nb_frames > static_cast<std::int64_t>(packets_.size());
    if (packets_.empty()) return;
    if (!stamped && all_keys) {
      // Each picture is by itself: the order of the file is that of showing.
      for (Packet& one : packets_) one.stamp = one.decode;
      stamped = std::ranges::none_of(packets_, [](const Packet& one) { return one.stamp == AV_NOPTS_VALUE; });
      by_decode_ = stamped;
    }
    if (stamped) {
      std::ranges::copy_if(packets_, std::back_inserter(keys_), &Packet::key);
      std::ranges::sort(keys_, {}, &Packet::stamp);
      for (const Packet& one : packets_) order_.push_back({one.stamp});
      std::ranges::sort(order_, {}, &Frame::stamp);
      // Two pictures of one time cannot be told apart.
      const auto doubled = std::ranges::unique(order_, {}, &Frame::stamp);
      order_.erase(doubled.begin(), doubled.end());
      return;
    }
    // Without times frames are counted as they are decoded, once, from the beginning.
    counted_ = true;
    rewind();
    std::int64_t number = 0;
    while (next()) order_.push_back({number++});
    rewind();
  }

  /// Damaged frames at the end of a film that is cut short are no frames.
  void look_at_end() {
    const auto said = order_.size();
    const double length = stated_length();
    const double shown = order_.empty() ? 0 : static_cast<double>(order_.back().stamp - order_.front().stamp) / second_;
    const double each = order_.size() > 1 ? shown / static_cast<double>(order_.size() - 1) : 0;
    cut_ = cut_ || (!counted_ && length > 0 && shown + 3 * each + 0.5 < length);
    if (!counted_)
      while (!order_.empty()) {
        try {
          decoded(order_.back().stamp, static_cast<int>(order_.size()) - 1);
          break;
        } catch (const Error& error) {
          if (error.kind() == Error::Kind::cancelled) throw;
          order_.pop_back();
          cut_ = true;
        }
        if (said - order_.size() > 600) break;
      }
    if (cut_)
      notes_.push_back(
          fmt::format("The film is cut short: {} frames, {:.1f} s, can be read{}.", order_.size(),
                      order_.empty() ? 0 : static_cast<double>(order_.back().stamp - order_.front().stamp) / second_,
                      length > shown + 1 ? fmt::format(" of {:.1f} s", length) : ""));
  }

  /// What the film says of the length of its pictures, in seconds; 0 where it says nothing. Sound may be longer.
  double stated_length() const {
    if (stream()->duration > 0) return static_cast<double>(stream()->duration) / second_;
    if (const AVDictionaryEntry* said = ::av_dict_get(stream()->metadata, "DURATION", nullptr, 0)) {
      std::int64_t micro = 0;
      if (::av_parse_time(&micro, said->value, 1) >= 0) return static_cast<double>(micro) / 1e6;
    }
    return format_->nb_streams == 1 && format_->duration > 0 ? static_cast<double>(format_->duration) / AV_TIME_BASE
                                                             : 0;
  }

  void rewind() {
    ::av_seek_frame(format_.get(), stream_, std::numeric_limits<std::int64_t>::min(), AVSEEK_FLAG_BACKWARD);
    if (format_->pb) {
      const std::int64_t first = packets_.empty() ? 0 : packets_.front().decode;
      if (first != AV_NOPTS_VALUE) ::avformat_seek_file(format_.get(), stream_, INT64_MIN, first, first, 0);
    }
    ::avcodec_flush_buffers(codec_.get());
    draining_ = false;
    counter_ = 0;
    sound_from_ = std::numeric_limits<std::int64_t>::min();
    at_.reset();
  }

  /// The next frame that is decoded, in the order of showing; null at the end.
  FramePointer next() {
    const std::unique_ptr<AVPacket, FreePacket> packet(::av_packet_alloc());
    FramePointer frame(::av_frame_alloc(), FreeFrame());
    constexpr int most_errors = 64;  // behind the last packet
    for (int errors = 0;;) {
      if (job_ && job_->stop.stop_requested()) throw cancelled_error();
      const int got = ::avcodec_receive_frame(codec_.get(), frame.get());
      if (got >= 0) {
        if (counted_)
          frame->pts = counter_++;
        else if (by_decode_)
          frame->pts = frame->pkt_dts;
        else if (frame->pts == AV_NOPTS_VALUE)
          frame->pts = frame->best_effort_timestamp;
        at_ = frame->pts;
        return frame;
      }
      if (got == AVERROR_EOF) return nullptr;
      // A damaged picture is passed over.
      if (draining_ && (got == AVERROR(EAGAIN) || ++errors > most_errors)) return nullptr;
      if (draining_) continue;
      const int read = ::av_read_frame(format_.get(), packet.get());
      if (read < 0) {
        draining_ = true;
        ::avcodec_send_packet(codec_.get(), nullptr);
        continue;
      }
      if (packet->stream_index == stream_) {
        if (has_checksums_) {
          // What is decoded from a damaged packet, or leans on it, is a guess.
          if (!checksums_hold(*packet))
            damaged_ = true;
          else if ((packet->flags & AV_PKT_FLAG_KEY) != 0)
            damaged_ = false;
          if (damaged_) damaged_stamps_.insert(by_decode_ ? packet->dts : packet->pts);
        }
        ::avcodec_send_packet(codec_.get(), packet.get());
      }
      ::av_packet_unref(packet.get());
    }
  }

  bool sound(const AVFrame& frame) const {
    return frame.decode_error_flags == 0 && (frame.flags & AV_FRAME_FLAG_CORRUPT) == 0 &&
           !damaged_stamps_.contains(frame.pts);
  }

  FramePointer kept(std::int64_t stamp) const {
    const auto at = std::ranges::find_if(kept_, [&](const FramePointer& frame) { return frame->pts == stamp; });
    return at == kept_.end() ? nullptr : *at;
  }

  void keep(const FramePointer& frame) {
    kept_.push_back(frame);
    const std::int64_t each = std::max<std::int64_t>(1, static_cast<std::int64_t>(frame->width) * frame->height * 3);
    const auto most = std::clamp<std::size_t>(static_cast<std::size_t>(kept_bytes / each), 2, most_kept);
    while (kept_.size() > most) kept_.pop_front();
  }

  /// The frame of this time. Goes on from where decoding is where that is near, else from the key picture before.
  FramePointer decoded(std::int64_t stamp, int index) {
    if (const auto frame = kept(stamp)) return frame;
    const std::int64_t key = key_before(stamp);
    // A key picture between here and there is a better start.
    if (!(at_ && *at_ < stamp && *at_ >= key)) seek(key);
    bool again = false;
    for (;;) {
      const auto frame = next();
      if (!frame || (!counted_ && frame->pts > stamp)) {
        // It came later than it should, or never: once more, from the beginning.
        if (std::exchange(again, true) || counted_) break;
        rewind();
        continue;
      }
      // What is shown before the key picture that decoding began with may lean on pictures that were not decoded.
      if (sound(*frame) && frame->pts >= sound_from_) keep(frame);
      if (frame->pts == stamp) {
        if (!sound(*frame)) break;
        return frame;
      }
    }
    at_.reset();
    if (job_) job_->check();
    throw input_error(fmt::format("Frame {} of the film is damaged.", index + 1), path_.string(),
                      "Leave the frame out, or read the film from its origin again.");
  }

  /// The last key picture that is shown no later than this.
  std::int64_t key_before(std::int64_t stamp) const {
    if (counted_) return 0;
    const auto behind = std::ranges::upper_bound(keys_, stamp, {}, &Packet::stamp);
    return behind == keys_.begin() ? std::numeric_limits<std::int64_t>::min() : std::prev(behind)->stamp;
  }

  void seek(std::int64_t key) {
    const auto at = std::ranges::lower_bound(keys_, key, {}, &Packet::stamp);
    if (counted_ || at == keys_.end() || at == keys_.begin() || at->stamp != key) return rewind();
    // Demuxers seek by either stamp; to land a little early costs time and nothing else.
    const std::int64_t to = at->decode != AV_NOPTS_VALUE ? std::min(at->decode, at->stamp) : at->stamp;
    if (::avformat_seek_file(format_.get(), stream_, INT64_MIN, to, to, 0) < 0 &&
        ::av_seek_frame(format_.get(), stream_, to, AVSEEK_FLAG_BACKWARD) < 0)
      return rewind();
    ::avcodec_flush_buffers(codec_.get());
    draining_ = false;
    sound_from_ = key;
    at_.reset();
  }

  struct FreeFormat {
    void operator()(AVFormatContext* context) const { ::avformat_close_input(&context); }
  };
  struct FreeCodec {
    void operator()(AVCodecContext* context) const { ::avcodec_free_context(&context); }
  };
  struct FreePacket {
    void operator()(AVPacket* packet) const { ::av_packet_free(&packet); }
  };

  fs::path path_;
  FilmInput input_;
  const Job* job_;
  std::unique_ptr<AVFormatContext, FreeFormat> format_;
  std::unique_ptr<AVCodecContext, FreeCodec> codec_;
  Scaler scaler_;
  Colours colours_;
  int stream_ = -1, orientation_ = 1;
  std::vector<Packet> packets_;
  std::vector<Packet> keys_;  // by their stamps
  bool has_checksums_ = false, damaged_ = false;
  std::set<std::int64_t> damaged_stamps_;
  bool cut_ = false, counted_ = false, by_decode_ = false, draining_ = false;
  std::int64_t counter_ = 0;
  std::int64_t sound_from_ = std::numeric_limits<std::int64_t>::min();
  std::optional<std::int64_t> at_;  // the frame that was decoded last
  std::deque<FramePointer> kept_;
  std::mutex mutex_;
};

Film::Film(const fs::path& path, const Limits& limits, const Job& job)
    : state_(std::make_unique<State>(path, limits, job)) {}
Film::~Film() = default;

int Film::count() const {
  return static_cast<int>(state_->order_.size());
}

double Film::time(int index) const {
  const auto& order = state_->order_;
  return static_cast<double>(order[static_cast<std::size_t>(index)].stamp - order.front().stamp) / state_->second_;
}

const FileInfo& Film::info() const {
  return state_->info_;
}

const std::vector<std::string>& Film::notes() const {
  return state_->notes_;
}

Image Film::read(int index, const Job& job) {
  if (index < 0 || index >= count())
    throw call_error(fmt::format("The film has no frame {}.", index + 1), {}, fmt::format("It has {}.", count()));
  return state_->read(index, job);
}

std::shared_ptr<Film> open_film(const fs::path& path, const Limits& limits, const Job& job) {
  struct Kept {
    fs::path path;
    FileIdentity identity;
    std::shared_ptr<Film> film;
  };
  constexpr std::size_t most = 4;
  static std::mutex mutex;
  static std::list<Kept> kept;
  const auto identity = identity_of(path);
  if (!identity)
    throw input_error("The file cannot be opened.", path.string(), "Check that it exists and may be read.");
  const std::scoped_lock lock(mutex);
  for (auto at = kept.begin(); at != kept.end(); ++at)
    if (at->path == path && at->identity == *identity) {
      kept.splice(kept.begin(), kept, at);
      return kept.front().film;
    }
  std::erase_if(kept, [&](const Kept& one) { return one.path == path; });
  kept.push_front({path, *identity, std::make_shared<Film>(path, limits, job)});
  if (kept.size() > most) kept.pop_back();
  return kept.front().film;
}

}  // namespace fexel
