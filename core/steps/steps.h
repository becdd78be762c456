#pragma once
/// All steps. A new one is a pair of files in this folder and a line here.
#include <variant>

#include "steps/align.h"
#include "steps/bands.h"
#include "steps/contrast.h"
#include "steps/convolve.h"
#include "steps/crop.h"
#include "steps/denoise.h"
#include "steps/fit.h"
#include "steps/highpass.h"
#include "steps/lens.h"
#include "steps/matrix.h"
#include "steps/mirror.h"
#include "steps/pad.h"
#include "steps/quarter.h"
#include "steps/rectify.h"
#include "steps/reduce.h"
#include "steps/resize.h"
#include "steps/shift.h"
#include "steps/tilt.h"
#include "steps/turn.h"
#include "steps/unwrap.h"

namespace fexel {

using StepKind = std::variant<QuarterStep, MirrorStep, TurnStep, ShiftStep, CropStep, ResizeStep, ReduceStep, PadStep,
                              TiltStep, MatrixStep, LensStep, RectifyStep, FitStep, UnwrapStep, BandsStep, ContrastStep,
                              HighpassStep, DenoiseStep, ConvolveStep, AlignStep>;

struct Step {
  StepKind kind;
  bool on = true;
  std::string name;  ///< the person's own name for it, may be empty
  bool operator==(const Step&) const = default;
};

const char* word_of(const StepKind& kind);
/// The words of all steps, in the order of StepKind.
std::vector<std::string> step_words();

}  // namespace fexel
