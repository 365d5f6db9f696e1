#pragma once
// The parameters of a stage as they are described, and the handles by which its values are asked for: a handle is made
// by the description itself, so that neither order nor kind is kept in step by hand.

#include <algorithm>
#include <utility>

#include "core/stages/parameter.h"

namespace molten {

/// A parameter whose value is a T.
template <class T>
class ParameterHandle {
 public:
  std::size_t index() const { return index_; }
  const T& operator()(const StageValues& values) const { return std::get<T>(values[index_]); }
  void set(StageValues& values, T value) const { values[index_] = std::move(value); }

 private:
  friend class ParameterList;
  explicit ParameterHandle(std::size_t index) : index_(index) {}
  std::size_t index_;
};

/// A parameter whose choices stand for the enumerators of an Enum.
template <class Enum>
class ChoiceHandle {
 public:
  std::size_t index() const { return index_; }
  Enum operator()(const StageValues& values) const { return meant_[std::get<std::size_t>(values[index_])]; }
  void set(StageValues& values, Enum value) const { values[index_] = indexOf(value); }
  std::size_t indexOf(Enum value) const {
    return static_cast<std::size_t>(std::find(meant_.begin(), meant_.end(), value) - meant_.begin());
  }

 private:
  friend class ParameterList;
  ChoiceHandle(std::size_t index, std::vector<Enum> meant) : index_(index), meant_(std::move(meant)) {}
  std::size_t index_;
  std::vector<Enum> meant_;  ///< by each choice
};

/// A choice and what it stands for.
template <class Enum>
struct ChoiceOf {
  Enum meant;
  ChoiceDescription described;
};

/// What a parameter of any kind is described by.
struct ParameterWords {
  std::string id, label, card, help;
  bool animatable = false;
  ParameterDescription::Conditions when = {};
  std::optional<Figure> figure = std::nullopt;
  std::string was = {};
  bool ofSound = false;

  /// The same, known by another id in earlier files.
  ParameterWords formerly(const char* earlier) && {
    was = earlier;
    return std::move(*this);
  }
};

/// Descriptions in the making: each call adds one and gives its handle.
class ParameterList {
 public:
  ParameterHandle<double> number(const ParameterWords& words, NumberDescription number) {
    return ParameterHandle<double>(add(words, number));
  }
  ParameterHandle<Place> place(const ParameterWords& words, Place initial) {
    return ParameterHandle<Place>(add(words, PlaceDescription{initial}));
  }
  ParameterHandle<bool> toggle(const ParameterWords& words, bool initial = false) {
    return ParameterHandle<bool>(add(words, ToggleDescription{initial}));
  }
  template <class Enum>
  ChoiceHandle<Enum> choice(const ParameterWords& words, std::vector<ChoiceOf<Enum>> choices, Enum initial) {
    ChoicesDescription described;
    std::vector<Enum> meant;
    for (auto& one : choices) {
      if (one.meant == initial) described.initial = meant.size();
      meant.push_back(one.meant);
      described.choices.push_back(std::move(one.described));
    }
    return {add(words, std::move(described)), std::move(meant)};
  }
  ParameterHandle<PaceSpans> spans(const ParameterWords& words) {
    return ParameterHandle<PaceSpans>(add(words, SpansDescription{}));
  }
  ParameterHandle<FrameOrder> order(const ParameterWords& words) {
    return ParameterHandle<FrameOrder>(add(words, OrderDescription{}));
  }
  ParameterHandle<CurvePoints> curve(const ParameterWords& words) {
    return ParameterHandle<CurvePoints>(add(words, CurveDescription{}));
  }
  ParameterHandle<std::string> file(const ParameterWords& words, const FileDescription& file = {}) {
    return ParameterHandle<std::string>(add(words, file));
  }
  ParameterHandle<std::string> text(const ParameterWords& words, const TextDescription& text) {
    return ParameterHandle<std::string>(add(words, text));
  }
  ParameterHandle<Painting> painting(const ParameterWords& words) {
    return ParameterHandle<Painting>(add(words, PaintingDescription{}));
  }
  ParameterHandle<Colour> colour(const ParameterWords& words, Colour initial) {
    return ParameterHandle<Colour>(add(words, ColourDescription{initial}));
  }

  const std::vector<ParameterDescription>& described() const { return parameters_; }

 private:
  template <class Kind>
  std::size_t add(const ParameterWords& words, Kind kind) {
    parameters_.push_back(
        {words.id, words.label, words.card, words.help, words.animatable, std::move(kind), words.when, words.figure,
         words.was, words.ofSound});
    return parameters_.size() - 1;
  }

  std::vector<ParameterDescription> parameters_;
};

}  // namespace molten
