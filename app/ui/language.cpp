#include "app/ui/language.h"

#include <QCoreApplication>
#include <QFile>
#include <QLibraryInfo>
#include <QTranslator>
#include <algorithm>
#include <memory>

#include "app/ui/text.h"

/// Words stand in a library, so they are registered by hand; the macro has to be called outside namespaces.
static void load_words() {
#ifdef FEXEL_LANGUAGES
  Q_INIT_RESOURCE(languages);
#endif
}

namespace fexel {
namespace {

/// Words of the core that the window shows.
[[maybe_unused]] constexpr const char* words_of_core[] = {
    QT_TRANSLATE_NOOP("fexel", "grow"),          QT_TRANSLATE_NOOP("fexel", "keep"),
    QT_TRANSLATE_NOOP("fexel", "inside"),        QT_TRANSLATE_NOOP("fexel", "translation"),
    QT_TRANSLATE_NOOP("fexel", "rigid"),         QT_TRANSLATE_NOOP("fexel", "similarity"),
    QT_TRANSLATE_NOOP("fexel", "affine"),        QT_TRANSLATE_NOOP("fexel", "projective"),
    QT_TRANSLATE_NOOP("fexel", "polynomial2"),   QT_TRANSLATE_NOOP("fexel", "polynomial3"),
    QT_TRANSLATE_NOOP("fexel", "thin-plate"),    QT_TRANSLATE_NOOP("fexel", "n"),
    QT_TRANSLATE_NOOP("fexel", "covered"),       QT_TRANSLATE_NOOP("fexel", "y"),
    QT_TRANSLATE_NOOP("fexel", "width sigma"),   QT_TRANSLATE_NOOP("fexel", "width"),
    QT_TRANSLATE_NOOP("fexel", "sum"),           QT_TRANSLATE_NOOP("fexel", "straight"),
    QT_TRANSLATE_NOOP("fexel", "roundness"),     QT_TRANSLATE_NOOP("fexel", "perimeter"),
    QT_TRANSLATE_NOOP("fexel", "min"),           QT_TRANSLATE_NOOP("fexel", "median"),
    QT_TRANSLATE_NOOP("fexel", "mean"),          QT_TRANSLATE_NOOP("fexel", "max"),
    QT_TRANSLATE_NOOP("fexel", "last"),          QT_TRANSLATE_NOOP("fexel", "first"),
    QT_TRANSLATE_NOOP("fexel", "edges"),         QT_TRANSLATE_NOOP("fexel", "edge width"),
    QT_TRANSLATE_NOOP("fexel", "direction"),     QT_TRANSLATE_NOOP("fexel", "deviation"),
    QT_TRANSLATE_NOOP("fexel", "circumference"), QT_TRANSLATE_NOOP("fexel", "centroid y"),
    QT_TRANSLATE_NOOP("fexel", "centroid x"),    QT_TRANSLATE_NOOP("fexel", "centre y"),
    QT_TRANSLATE_NOOP("fexel", "centre x"),      QT_TRANSLATE_NOOP("fexel", "area"),
    QT_TRANSLATE_NOOP("fexel", "contrast")};

/// One sentence has one translation, wherever in the window it stands.
class Words : public QTranslator {
 public:
  QString translate(const char*, const char* source, const char*, int) const override {
    return QTranslator::translate("fexel", source);
  }
};

struct State {
  QString language = QStringLiteral("en");
  QLocale numbers = QLocale::c();
  std::unique_ptr<QTranslator> words, of_toolkit;
};
State& state() {
  static State out;
  return out;
}

}  // namespace

const QStringList& languages() {
  static const QStringList out = [] {
    load_words();
    QStringList list{QStringLiteral("en")};
    if (QFile::exists(QStringLiteral(":/languages/fexel_de.qm"))) list << QStringLiteral("de");
    return list;
  }();
  return out;
}

const QString& language() {
  return state().language;
}

void use_language(const QString& word) {
  State& now = state();
  for (auto* one : {&now.words, &now.of_toolkit}) {
    if (*one) QCoreApplication::removeTranslator(one->get());
    one->reset();
  }
  now.language = languages().contains(word) ? word : QStringLiteral("en");
  now.numbers = QLocale::c();
  if (now.language == "en") return;
  now.numbers = QLocale(now.language);
  now.numbers.setNumberOptions(QLocale::OmitGroupSeparator);
  now.of_toolkit = std::make_unique<QTranslator>();
  if (now.of_toolkit->load("qtbase_" + now.language, QLibraryInfo::path(QLibraryInfo::TranslationsPath)))
    QCoreApplication::installTranslator(now.of_toolkit.get());
  now.words = std::make_unique<Words>();
  if (now.words->load(":/languages/fexel_" + now.language + ".qm"))
    QCoreApplication::installTranslator(now.words.get());
}

QString language_of_desktop() {
  for (const QString& wanted : QLocale::system().uiLanguages()) {
    const QString word = wanted.section('-', 0, 0);
    if (languages().contains(word)) return word;
  }
  return QStringLiteral("en");
}

InLanguage::InLanguage(const QString& word) : before_(language()) {
  if (!word.isEmpty() && word != before_) use_language(word);
}

InLanguage::~InLanguage() {
  if (before_ != language()) use_language(before_);
}

const QLocale& number_locale() {
  return state().numbers;
}

QString core_word(std::string word) {
  std::ranges::replace(word, '_', ' ');
  return QCoreApplication::translate("fexel", word.c_str());
}

QString number_shown(const std::string& text) {
  return number_shown(text_of(text));
}

QString number_shown(QString text) {
  const QString point = number_locale().decimalPoint();
  if (point == ".") return text;
  for (qsizetype i = 1; i + 1 < text.size(); ++i)
    if (text[i] == '.' && text[i - 1].isDigit() && text[i + 1].isDigit()) text.replace(i, 1, point);
  return text;
}

QString number_typed(QString text) {
  return with_plain_minus(std::move(text)).replace(',', '.');
}

QString between_numbers() {
  return number_locale().decimalPoint() == "," ? QStringLiteral("; ") : QStringLiteral(", ");
}

}  // namespace fexel
