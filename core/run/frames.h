#pragma once
/// The frames of a sequence, as they lie in files.
#include "chain/chain.h"
#include "files/picture.h"

namespace fexel {

/// One frame of a sequence: a page of a file, or one band of it.
struct FrameFile {
  std::filesystem::path path;
  int page = 1;
  int band = 0;                  ///< from 1; 0 is all of them
  std::string name;              ///< of the band, where the file says it
  std::optional<FileInfo> info;  ///< nothing where the file cannot be read
  std::string trouble;           ///< then why
  bool alpha_band = false;       ///< see Limits
};

/// The frames in files and folders, in natural order: every page of every file; with `bands`, every band of a file that
/// has several and one page. Raises a call error when there are none.
std::vector<FrameFile> list_frames(const std::vector<std::filesystem::path>& inputs, bool bands, const Limits& limits);
/// The pages of one file.
std::vector<FrameFile> pages_of(const std::filesystem::path& path, const Limits& limits);
/// The limits with what a chain says of how its sources are read, or with how a frame was listed.
Limits limits_for(const Chain& chain, Limits limits);
Limits limits_for(const FrameFile& frame, Limits limits);
/// Reads one. Raises an input error where it cannot be read.
Image read_frame(const FrameFile& frame, const Limits& limits, const Job& job);

/// Folders become the pictures in them, in natural order (2 before 10); what records there name as results or masks is
/// left out, and counted in `results`.
std::vector<std::filesystem::path> expand_inputs(const std::vector<std::filesystem::path>& inputs,
                                                 int* results = nullptr);
/// 2 before 10: compares runs of digits by their value.
bool natural_less(const std::string& a, const std::string& b);

/// Whether the frames are pairs, a and b: one file each, whose names are alike but for the last letter, a before b.
bool in_pairs(const std::vector<FrameFile>& frames);
/// Whether the second frame's name is that of the first but for its last letter, b for a.
bool is_pair(const FrameFile& first, const FrameFile& second);
/// Whether they are for this chain, which may go by their order. Of an odd number by order the last one is alone.
bool in_pairs(const Chain& chain, const std::vector<FrameFile>& frames);

/// Which frames of an open sequence are left out: the chain's sources are the files that `frames` come from, in their
/// order, and say which pages are.
std::vector<bool> left_out(const Chain& chain, const std::vector<FrameFile>& frames);
/// The chain with a frame left out, or taken in again.
Chain with_left_out(Chain chain, const std::vector<FrameFile>& frames, std::size_t index, bool out);

}  // namespace fexel
