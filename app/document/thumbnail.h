#pragma once
/// Small pictures for lists.
#include <QImage>

#include "image/image.h"

namespace fexel {

/// A picture no larger than `side` each way, dark to light as its samples go; in colour where it has three bands or
/// more, else grey.
QImage thumbnail_of(const Image& image, int side);

}  // namespace fexel
