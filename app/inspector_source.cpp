#include <QFileInfo>

#include "app/fields.h"
#include "app/inspector.h"
#include "app/tile.h"

namespace fexel {
namespace {

class SourcePage : public InspectorPage {
 public:
  explicit SourcePage(Document& document) : InspectorPage(document, "source", tr("Source")) {
    column()->addWidget(fields::section(tr("As it was read")));
    facts_ = fields::sentence(tr("What the file says"));
    column()->addWidget(facts_);
    add_check();
  }
  void refresh() override {
    const OpenSource* source = document().source();
    if (!source) {
      fields::say(facts_, tr("No picture is open. Open one with Ctrl+O, or drop it on the window."));
      check({});
      return;
    }
    const FileInfo& info = source->info;
    const QString depth = info.depth == Depth::u8    ? tr("8-bit")
                          : info.depth == Depth::u16 ? tr("16-bit")
                                                     : tr("floating point");
    const QString bands = info.bands == 1   ? tr("grey")
                          : info.bands == 3 ? tr("three bands")
                                            : tr("%1 bands").arg(info.bands);
    fields::say(facts_,
                tr("%1\n%2 × %3 px, %4, %5\n%6")
                    .arg(QFileInfo(source->path).fileName())
                    .arg(info.width)
                    .arg(info.height)
                    .arg(depth, bands,
                         info.pixel_size ? size_text(document().layout().stations[0]) : tr("pixel size not known")));
    QStringList notes;
    if (!info.pixel_size) notes << tr("The file does not say how large a pixel is, so lengths here are in pixels.");
    if (info.orientation != 1)
      notes << tr("The file carries orientation tag %1; it was applied once, so the picture stands upright here.")
                   .arg(info.orientation);
    if (source->pixels->base().has_mask())
      notes << (info.alpha ? tr("An alpha band says which pixels are empty; what lies under it is not used.")
                           : tr("Pixels that hold no number (NaN) are empty."));
    if (!info.profile.empty()) notes << tr("It carries a colour profile, which goes on to the result.");
    if (info.frames > 1) notes << tr("The file has %1 pages.").arg(info.frames);
    if (info.depth == Depth::f32) notes << tr("Values from 0 to 1 are shown from black to white.");
    notes << tr("The file is only ever read.");
    check(notes.join(" "));
  }

 private:
  QLabel* facts_;
};

}  // namespace

InspectorPage* make_source_page(Document& document) {
  return new SourcePage(document);
}

}  // namespace fexel
