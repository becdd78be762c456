#pragma once
/// A copy of a result with its marks, for a report or a paper. The data are never touched.
#include "chain/evaluate.h"
#include "files/picture.h"
#include "marks/lay_out_marks.h"

namespace fexel {

/// The formats of a copy; drawn in, or with vectors and text.
enum class CopyFormat { png, tiff, jpeg, svg, pdf };
const std::vector<std::string>& copy_format_words();
/// The format that a file name's ending stands for; nothing for an unknown one.
std::optional<CopyFormat> copy_format_of_name(const std::filesystem::path& path);

/// A result that marks are laid on. Reads pixels only when it is asked for them; safe in one thread at a time.
class MarkedResult {
 public:
  /// `range`: samples shown as black and white. Without it 8-bit samples are shown as they are, 16-bit ones by 257 (or
  /// by the largest that the file says), and floating-point ones from 0 to 1, or over all of the result's where they go
  /// beyond.
  MarkedResult(Chain chain, SourceShape shape, Layout layout, std::shared_ptr<const RunPictures> pictures,
               std::optional<std::pair<double, double>> range);

  /// The whole result, reduced: black and white are chosen by it.
  RgbPicture reduced(const Job& job) const;
  /// The marks on a copy with `scale` pixels for one of the result.
  MarkDrawing drawing(double scale, const RgbPicture& reduced, const Job& job) const;
  /// A part of the result in so many pixels, resampled once; empty pixels are white.
  RgbPicture part(const Rect& part, int width, int height, const Job& job) const;
  /// All of the result in the pixels of a copy.
  RgbPicture picture(double scale, const Job& job) const;
  double scale() const;  ///< of a copy by the chain's style
  /// The number of the frame that is written, from 1; the layout's own without it.
  void set_frame(int frame) { frame_ = frame; }
  const Chain& chain() const { return chain_; }
  const Layout& layout() const { return layout_; }
  const SourceShape& shape() const { return shape_; }

 private:
  Chain chain_;
  SourceShape shape_;
  Layout layout_;
  std::shared_ptr<const RunPictures> pictures_;
  /// The range, found in the result's samples when it is first needed.
  const std::optional<std::pair<double, double>>& shown_range(const Job& job) const;
  mutable std::optional<std::pair<double, double>> range_;
  mutable bool range_known_;
  int frame_;
};

/// An image as 8-bit RGB: of three bands or more the first three, else the first one as grey.
RgbPicture rgb_of(const Image& image, const std::optional<std::pair<double, double>>& range);

/// What of a chain's marks cannot be drawn on a result of this layout, each in a sentence; known without pixels.
std::vector<std::string> mark_problems(const Chain& chain, const SourceShape& shape, const Layout& layout);

/// Writes the copy. Raises a call error where the chain has no marks or one of them cannot be drawn, or the copy would
/// be too large, and what writing raises.
void write_marked_copy(const MarkedResult& result, const std::filesystem::path& path, CopyFormat format, bool replace,
                       std::shared_ptr<const ProtectedPaths> keep, const Job& job);

}  // namespace fexel
