#pragma once
/// All steps. A new one is a pair of files in this folder and a line here.
#include <variant>

#include "steps/align.h"
#include "steps/background.h"
#include "steps/bands.h"
#include "steps/convolve.h"
#include "steps/crop.h"
#include "steps/denoise.h"
#include "steps/downsample.h"
#include "steps/fit.h"
#include "steps/highpass.h"
#include "steps/lens.h"
#include "steps/local_contrast.h"
#include "steps/matrix.h"
#include "steps/mirror.h"
#include "steps/pad.h"
#include "steps/rectify.h"
#include "steps/resize.h"
#include "steps/rotate.h"
#include "steps/tilt.h"
#include "steps/translate.h"
#include "steps/unwrap.h"

namespace fexel {

using StepKind = std::variant<RotateStep, MirrorStep, TranslateStep, CropStep, ResizeStep, DownsampleStep, PadStep,
                              TiltStep, MatrixStep, LensStep, RectifyStep, FitStep, UnwrapStep, BandsStep,
                              LocalContrastStep, HighpassStep, BackgroundStep, DenoiseStep, ConvolveStep, AlignStep>;

struct Step {
  StepKind kind;
  bool on = true;
  std::string name;  ///< the person's own name for it, may be empty
  bool operator==(const Step&) const = default;
};

const char* word_of(const StepKind& kind);
/// The words of all steps, in the order of StepKind.
std::vector<std::string> step_words();
/// Steps that earlier files call otherwise: the old word, and what to write now.
const std::vector<std::pair<std::string, std::string>>& renamed_steps();

/// A step of this word with values that suit the station it gets. Raises a call error for an unknown word.
StepKind step_begun(const std::string& word, const StepInput& input);
/// fitted_step() of whatever kind it is.
std::optional<StepKind> fitted_kind(const StepKind& kind, const StepInput& input);

}  // namespace fexel
