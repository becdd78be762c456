#pragma once
/// The language that the window speaks, and how it writes numbers. Files always have a point.
#include <QLocale>
#include <QString>
#include <QStringList>
#include <map>
#include <memory>
#include <mutex>

namespace fexel {

/// "en" and those that this build has words of.
const QStringList& languages();
/// The one in use.
const QString& language();
/// From now on; what is shown already keeps its words. An unknown one is English.
void use_language(const QString& word);
/// What the desktop asks for, as far as it is there.
QString language_of_desktop();

/// Another language, for as long as this lives. An empty word changes nothing.
class InLanguage {
 public:
  explicit InLanguage(const QString& word);
  ~InLanguage();
  InLanguage(const InLanguage&) = delete;
  InLanguage& operator=(const InLanguage&) = delete;

 private:
  QString before_;
};

/// One object of a kind for each language that is used: its texts are of the language that it is made in. From any
/// thread.
template <class Kind>
const Kind& made_in_language() {
  static std::recursive_mutex mutex;
  static std::map<QString, std::unique_ptr<const Kind>> all;
  const std::scoped_lock lock(mutex);
  auto& one = all[language()];
  if (!one) one = std::make_unique<const Kind>();
  return *one;
}

/// A word of the core as the window says it: a model, or what is known beside a measurement; with blanks for its
/// underlines.
QString core_word(std::string word);

/// How numbers are written: without marks between thousands.
const QLocale& number_locale();
/// A text of the core with its numbers' signs as this language has them.
QString number_shown(const std::string& text);
QString number_shown(QString text);
/// A number that was typed, with a point and a plain minus.
QString number_typed(QString text);
/// What stands between the numbers of a list.
QString between_numbers();

}  // namespace fexel
