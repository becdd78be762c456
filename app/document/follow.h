#pragma once
/// Views that need a few milliseconds to follow the document: at once when a change is made, a few times a second while
/// a hand drags.
#include <QTimer>
#include <functional>

#include "app/document/document.h"

namespace fexel {

/// Calls `body` after changes of the document: at once, or every `ms` milliseconds while something is dragged. Lives as
/// long as `view`.
inline void follow_changes(Document& document, QObject* view, int ms, const std::function<void()>& body) {
  auto* pause = new QTimer(view);
  pause->setSingleShot(true);
  pause->setInterval(ms);
  QObject::connect(pause, &QTimer::timeout, view, body);
  QObject::connect(&document, &Document::changed, view, [&document, pause, body] {
    if (!document.session().dragging())
      body();
    else if (!pause->isActive())
      pause->start();
  });
}

}  // namespace fexel
