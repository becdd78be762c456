#pragma once
/// Results from frames: the one function that every run, sequence, carried stack and window writes by.
#include "chain/evaluate.h"
#include "run/frames.h"
#include "run/record.h"
#include "run/result_writer.h"

namespace fexel {

/// The files that frames come from, each once, in their order; watched from now on.
std::vector<WatchedFile> watched(const std::vector<FrameFile>& frames);

/// A source that is in memory already.
struct AtHand {
  FileIdentity identity;
  std::shared_ptr<const Pyramid> pixels;
};

struct WriteHow {
  Limits limits = {};
  std::int64_t memory = memory_to_use();  ///< bytes; a picture that needs more is read and written by parts
  /// A frame that cannot be used is noted, and has an empty page; without it the run ends there.
  bool keep_going = false;
  /// Frames that did not match have no page; without it they are written where they are.
  bool leave_out_unmatched = false;
  std::vector<WatchedFile> sources = {};  ///< of all frames, since they were listed; taken now when empty
  std::optional<AtHand> at_hand = {};
};

/// How a run over these frames goes, known without reading a pixel.
struct WritePlan {
  struct Page {
    std::size_t frame;  ///< among the frames
    Layout layout;
    std::optional<Error> failure;  ///< why there is nothing of it
    bool by_parts = false;
  };
  std::vector<Page> pages;
  std::vector<OutputShape> shapes;  ///< of the pages of the file
  bool one_page_of_bands = false;   ///< frames are the bands of one picture
};
/// Raises call errors for what cannot be written at all: a chain that does not fit, a format that cannot hold the
/// result, a target that may not be written.
WritePlan plan_frames(const Chain& chain, const std::vector<FrameFile>& frames, const Target& target,
                      const WriteHow& how);

/// Evaluates the chain for every frame, in order, and writes the results, masks and the record, which appear together.
/// Frames that the chain's sources say to skip have no page. What the chain aligns has one shape; other frames go by
/// their own. Raises input errors where a frame cannot be used and `how` does not say to keep going, where a source was
/// changed meanwhile, and where no frame could be used.
RunResult write_frames(const Chain& chain, const std::vector<FrameFile>& frames, const Target& target,
                       const WriteHow& how, const Job& job);

}  // namespace fexel
