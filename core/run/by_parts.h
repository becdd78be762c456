#pragma once
/// A chain over a picture that is larger than memory: read by regions, computed and written by rows.
#include "chain/evaluate.h"
#include "run/write_frames.h"

namespace fexel {

/// How much memory a page takes that is read, made and written whole, in bytes, roughly.
double memory_for(const Chain& chain, const Layout& layout, const FileInfo& info, const Target& target);

/// Raises a call error that says why a page cannot go by parts: the formats are not TIFF, an edge repeats the picture,
/// a step needs more than rows.
void check_by_parts(const Chain& chain, const Layout& layout, const FrameFile& frame, const Target& target,
                    const WriteHow& how);

/// Writes a page within how.memory bytes. Its samples are those of the whole picture: the same but for what lies within
/// 1e-5 of a rounding, and where the kernel is bspline3, whose filter begins anew in each part, which f32 samples show
/// in 1e-7.
WarpReport write_by_parts(const Chain& chain, const Layout& layout, const FrameFile& frame, const WriteHow& how,
                          ResultWriter& writer, const Job& job);

}  // namespace fexel
