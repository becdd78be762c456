#pragma once
/// The core's words as the window's.
#include <QString>
#include <string>

namespace fexel {

inline QString text_of(const std::string& text) {
  return QString::fromStdString(text);
}

}  // namespace fexel
