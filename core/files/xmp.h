#pragma once
/// Packets of XMP (ISO 16684-1): what of them goes on to another picture.
#include <vector>

namespace fexel::codec {

/// The packet without what it says of size, resolution and orientation, which are another picture's. Nothing for what
/// is not well-formed.
std::vector<unsigned char> carried_xmp(const std::vector<unsigned char>& packet);

}  // namespace fexel::codec
