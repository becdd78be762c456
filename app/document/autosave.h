#pragma once
/// Keeps what is not saved yet, so that a crash costs a second or two of edits.
#include <QLockFile>
#include <QObject>
#include <QTimer>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "app/document/document.h"

namespace fexel {

/// Work that a program left behind when it ended without leaving.
struct Unsaved {
  QString file;        ///< that keeps it
  QString chain_path;  ///< under which it was saved before; may be empty
  Chain chain;         ///< its source by its full path
};

/// Writes the document's chain into `folder` within a second of a change, beside the window, and removes it when there
/// is nothing unsaved. A lock tells a program that runs from one that ended.
class Autosave : public QObject {
  Q_OBJECT
 public:
  Autosave(Document& document, const QString& folder, QObject* parent = nullptr);
  ~Autosave() override;
  /// The newest work in the folder that no running program holds.
  std::optional<Unsaved> left_behind() const;
  /// This work goes on here: its file is removed as soon as the document has been kept.
  void take_over(const Unsaved& work);
  /// The person leaves on purpose: nothing is kept.
  void forget();

 private:
  struct Order {
    std::string text;  ///< empty: remove
    QString outdated;  ///< removed after
  };
  void keep();
  void run(const std::stop_token& stop);

  Document& document_;
  QString folder_, path_, outdated_;
  std::unique_ptr<QLockFile> lock_;
  QTimer soon_;
  std::mutex mutex_;
  std::condition_variable_any wake_;
  std::optional<Order> next_;
  std::jthread thread_;
};

}  // namespace fexel
