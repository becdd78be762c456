#pragma once
/// A comparison as a figure with its caption.
#include <QString>

namespace fexel {

class Document;
class ViewArea;
}  // namespace fexel

class QPixmap;

namespace fexel {

/// What the pictures show, in words: A and B, the source, the steps, how pixels were made, the pixel size.
QStringList figure_caption(const ViewArea& views, const Document& document);
/// Writes a picture with a caption below it: PNG, SVG or PDF by the name's ending, whole or not at all.
void save_captioned(const QString& path, const QPixmap& picture, const QStringList& caption, const Document& document);
/// Writes the pictures as they stand on the screen, but with three times its pixels across, with the caption below:
/// PNG, SVG or PDF by the name's ending. The file appears whole or not at all. Raises a call error for another ending
/// or a path that is a source, and an input error when it cannot be written.
void save_figure(const QString& path, ViewArea& views, const Document& document);

}  // namespace fexel
