#pragma once
/// Stacks of frames as practice brings them, rendered from formulas with their true transforms: ordinary ones, and ones
/// on which a search goes wrong. Nothing here is taken from the engine.
#include <span>
#include <vector>

#include "geometry/map.h"
#include "image/image.h"

namespace fexel::test {

struct Stack {
  std::vector<Image> frames;
  std::vector<Matrix3> lies;  ///< the scene's place p is seen at pixel `lies` p; the first is the identity
  bool matchable = true;      ///< false: the frames behind the first show something else
};

/// What a search is told of the frames' motion.
enum class Motion { translation, rigid, similarity, affine, projective };

struct Material {
  const char* name;
  Motion model;
  int frames;     ///< in a stack, with the reference
  bool ordinary;  ///< a search is expected to call nearly all of them ok
  Stack (*make)(unsigned seed, int frames);
};

std::span<const Material> materials();

}  // namespace fexel::test
