// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/Measured.h"
#include "model/Cell.h"
#include "project/Timing.h"

#include <QObject>
#include <QStringList>
#include <QUndoStack>
#include <map>
#include <optional>
#include <set>
#include <unordered_map>
#include <vector>

namespace tromb {

/// A place on the sheet.
struct CellPlace {
  int shot = 0;        ///< row
  int deliverable = 0; ///< column
  friend bool operator==(const CellPlace&, const CellPlace&) = default;
};

/// The open project: its value, the facts of its footage, and the stack of undoable changes. Every lasting change
/// goes through one of the commands below; views learn of it by the exact signals. Lives in the window's thread.
class Document : public QObject {
  Q_OBJECT

public:
  explicit Document(QObject* parent = nullptr);
  ~Document() override; ///< nothing is told any more

  [[nodiscard]] const Project& project() const { return m_project; }
  [[nodiscard]] const Footage& footage() const { return m_footage; }
  [[nodiscard]] QUndoStack& undoStack() { return m_stack; }
  [[nodiscard]] QString path() const { return m_path; } ///< empty until it was saved once
  [[nodiscard]] QString title() const;                  ///< the project's name for people
  /// Returns true if the project's file is another than the one that was last read or written here.
  [[nodiscard]] bool changedOutside() const;
  [[nodiscard]] bool modified() const { return m_touched || !m_stack.isClean(); }

  [[nodiscard]] Cell cell(CellPlace place) const;
  /// Which frames of its source a cell shows. None of a still, or where the source cannot be used or is not known yet.
  [[nodiscard]] std::optional<ShotCadence> cadence(CellPlace place) const;
  /// Returns true if a shot is made from one of these sources, or lies on one in some deliverable.
  [[nodiscard]] bool shows(int row, const QStringList& sourceIds) const;
  /// Facts of a source, null while it is being looked at.
  [[nodiscard]] const Result<MediaInfo>* media(const std::string& sourceId) const;
  /// What was measured of a source, null while nobody has.
  [[nodiscard]] const Measured* measured(const std::string& sourceId) const;
  [[nodiscard]] const std::map<std::string, Measured>& allMeasured() const { return m_measured; } ///< by Source::id
  /// Sources whose file has become another since the project was opened, by id.
  [[nodiscard]] const std::set<std::string>& changedSources() const { return m_changedSources; }
  [[nodiscard]] const Rational& duration() const;                   ///< Length of the running order in seconds. Quick.
  [[nodiscard]] int rowOfSource(const std::string& sourceId) const; ///< −1 when there is none; quick

  // Files. Loading replaces everything and clears the undo stack.
  void startNew(const Project& from = {});
  [[nodiscard]] Status load(const QString& path);
  void open(Project project, const QString& path); ///< Opens a project that has already been read from the file.
  [[nodiscard]] Status save(const QString& path);
  /// Takes over what a recovery copy holds; it counts as unsaved. `path` may be empty.
  void recover(const Project& project, const QString& path);

  // What was learned of files; not undoable, since these are facts. Bars that were measured are cut away at once,
  // unless somebody has set them.
  struct Learned {
    std::string sourceId;
    Result<MediaInfo> media;
    std::string path{};        ///< The file that was looked at; empty if it is the source's own.
    std::string fingerprint{}; ///< empty: not taken
  };
  /// What was learned of a file that is not the source's any more is dropped.
  void setMedia(const std::vector<Learned>& learned);
  void setMeasured(const std::string& sourceId, const std::string& fingerprint, const Measured& measured);

  // Undoable commands. Those with a `gesture` (> 0) merge with the one before, of the same gesture, into one step.
  struct NewFootage {
    MediaInfo media;
    std::string fingerprint;
  };
  enum class AsShots { No, Yes };
  void addFootage(const std::vector<NewFootage>& files, AsShots asShots, const std::string& group = {});
  void removeSources(std::vector<int> rows); ///< Also removes the shots and beds made from them; grounds made from them
                                             ///< become a blurred copy.
  /// Known by their ids. Where the picture becomes another (its bars, turned, mirrored), subjects and windows stay on
  /// what they were put on, as one step.
  void changeSources(const std::vector<Source>& changed, const QString& text);
  void relink(const std::vector<std::pair<std::string, std::string>>& paths); ///< by source id

  void addShots(std::vector<Shot> shots, int at); ///< ids are given here; `at` is the row of the first
  void removeShots(std::vector<int> rows);        ///< and what goes along with them
  void duplicateShots(std::vector<int> rows);     ///< each behind itself, with its framings
  /// Puts shots together in front of the one that is at `before` now; the number of shots stands for the end.
  void placeShots(std::vector<int> rows, int before);
  void moveShot(int from, int to); ///< `to` is the row it has afterwards
  void renameShot(int row, const QString& name);
  void changeShots(const std::vector<Shot>& changed, const QString& text, int gesture = 0); ///< known by their ids
  /// What a shot is framed by.
  struct Framed {
    std::string shot; ///< Shot::id
    Subjects subjects;
    std::map<std::string, Framing> framings{}; ///< by Deliverable::id; the others follow the subject
  };
  /// Gives shots subjects and framings, as one step. Cells that somebody has framed keep theirs.
  void frameShots(const std::vector<Framed>& framed, const QString& text);
  /// Cuts a shot at these times of its source, each inside it, in order; every part keeps the framings.
  void splitShot(int row, const std::vector<Rational>& sourceTimes);
  /// Cuts a shot at a picture of its source, from `at` up to `end`, and lets it stand there for `length` before it goes
  /// on. Does nothing to a shot that is held already, or has no such picture.
  void holdPicture(int row, const Rational& at, const Rational& end, const Rational& length);

  void addDeliverable(const Deliverable& deliverable);
  void addDeliverables(const std::vector<Deliverable>& deliverables, const QString& text);
  void editDeliverable(int column, const Deliverable& changed); ///< id, framings and what it shares are kept
  /// Known by their ids. Those that share canvas, rate or framings with one of them change with it.
  void changeDeliverables(const std::vector<Deliverable>& changed, const QString& text, int gesture = 0);
  /// Gives every deliverable the rate that was shot, as far as its destination takes it.
  void matchRates(const FrameRate& shot);
  void removeDeliverables(std::vector<int> columns); ///< what a high version shared with one that goes, it keeps
  void moveDeliverable(int from, int to);
  /// Changes framings, and with them those of deliverables that share them; of such cells the first that is given
  /// counts. They are no suggestions any more. Calls with the same `gesture` (> 0) on the same cells merge into one
  /// step.
  void setFramings(const std::vector<std::pair<CellPlace, Framing>>& framings, const QString& text, int gesture = 0);

  void setGroups(const std::vector<Group>& groups, const QString& text);
  void setRegions(std::vector<Region> regions, const QString& text, int gesture = 0);
  void setBeds(std::vector<SoundBed> beds, const QString& text, int gesture = 0);
  void setElements(std::vector<Element> elements, const QString& text, int gesture = 0);
  /// Changes one element as it is shown: what is changed of the look and the place of a caption is changed of all.
  void changeElement(const std::string& id, const std::function<void(Element&)>& how, const QString& text,
                     int gesture = 0);
  void setCaptionStyle(const CaptionStyle& style, const QString& text, int gesture = 0);
  void setOutput(const Output& output, const QString& text); ///< its naming must be good, see namingFault
  void setChecks(const Checks& checks, const QString& text);
  [[nodiscard]] int newGesture() { return ++m_gesture; }

signals:
  void aboutToReset();
  void reset();
  void sourcesAboutToBeInserted(int first, int last);
  void sourcesInserted();
  void sourcesAboutToBeRemoved(int first, int last);
  void sourcesRemoved();
  void sourceChanged(int row);
  void shotsAboutToBeInserted(int first, int last);
  void shotsInserted();
  void shotsAboutToBeRemoved(int first, int last);
  void shotsRemoved();
  void shotAboutToMove(int from, int to);
  void shotMoved();
  void deliverablesAboutToBeInserted(int first, int last);
  void deliverablesInserted();
  void deliverablesAboutToBeRemoved(int first, int last);
  void deliverablesRemoved();
  void deliverableAboutToMove(int from, int to);
  void deliverableMoved();
  void shotChanged(int row);
  void deliverableChanged(int column);
  void framingsChanged(const std::vector<tromb::CellPlace>& places);
  void mediaChanged(const QStringList& sourceIds); ///< facts or measures
  void factsWanted();                              ///< some sources have become other files
  void groupsChanged();
  void regionsChanged();
  void bedsChanged();
  void elementsChanged();
  void outputChanged();
  void checksChanged();
  void identityChanged(); ///< name, path or saved state

private:
  friend class DocumentCommand;
  /// What a source looks like once everything that was measured of it is taken in.
  [[nodiscard]] bool takeIn(Source& source) const;
  [[nodiscard]] std::vector<std::pair<std::string, Framing>> framingsOf(const std::string& shotId) const;
  void putFramings(const std::vector<std::pair<CellPlace, Framing>>& framings, const QString& text, int gesture);
  void putParts(int row, std::vector<Shot> parts, const QString& text);
  void replace(Project project, const QString& path);
  void forgetFacts(const std::string& sourceId);
  /// The framing as a deliverable takes it: held sharp where it is never to be enlarged.
  void carryOver(const Source& changed, const QString& text);

  Project m_project;
  Footage m_footage;
  std::map<std::string, Measured> m_measured; ///< by Source::id
  std::set<std::string> m_changedSources;
  mutable std::unordered_map<std::string, int> m_sourceRows; ///< empty: to be made again
  mutable std::optional<Rational> m_duration;                ///< the same
  QString m_path;
  std::string m_stamp; ///< The stamp that the file had when it was last read or written.
  int m_gesture = 0;
  bool m_touched = false; ///< changed outside the stack since the last save
  QUndoStack m_stack;     ///< goes first: its commands reach into all the others
};

} // namespace tromb

Q_DECLARE_METATYPE(std::vector<tromb::CellPlace>)
