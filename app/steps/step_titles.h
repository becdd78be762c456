#pragma once
/// What is said of steps: their titles, what they are for, by which words they are found, and their one number.
#include <QString>
#include <string>
#include <vector>

#include "chain/layout.h"

namespace fexel {

/// "Rectify", "Crop", "Quarter turn".
QString step_title(const std::string& word);
/// A step as sentences name it: by its own name in quotes, or its title in small letters.
QString called(const Step& step);
/// The words of all steps in the order of the work.
const std::vector<std::string>& steps_in_order();
/// What the step is for, in half a sentence.
QString step_purpose(const std::string& word);
/// Whether a step is what someone looks for: each of the words wanted is in its title, its purpose, or among other
/// words for it.
bool step_answers(const std::string& word, const QString& wanted);
/// What a step's tile says under its name: the one number that matters.
QString parameter_text(const Step& step, const Station& made);

}  // namespace fexel
