<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1" language="en">
<context>
    <name>core</name>
    <message numerus="yes">
        <source>%n deliverables added</source>
        <comment>%n deliverable added</comment>
        <translation>
            <numerusform>%n deliverable added</numerusform>
            <numerusform>%n deliverables added</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n deliverables changed</source>
        <comment>%n deliverable changed</comment>
        <translation>
            <numerusform>%n deliverable changed</numerusform>
            <numerusform>%n deliverables changed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n deliverables removed</source>
        <comment>%n deliverable removed</comment>
        <translation>
            <numerusform>%n deliverable removed</numerusform>
            <numerusform>%n deliverables removed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n frames from %1 on are damaged or missing in %2</source>
        <comment>%n frame at %1 is damaged or missing in %2</comment>
        <translation>
            <numerusform>%n frame at %1 is damaged or missing in %2</numerusform>
            <numerusform>%n frames from %1 on are damaged or missing in %2</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n frames from %1 on in '%2' are damaged or missing in %3</source>
        <comment>%n frame at %1 in '%2' is damaged or missing in %3</comment>
        <translation>
            <numerusform>%n frame at %1 in '%2' is damaged or missing in %3</numerusform>
            <numerusform>%n frames from %1 on in '%2' are damaged or missing in %3</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n half seconds</source>
        <comment>%n half second</comment>
        <translation>
            <numerusform>%n half second</numerusform>
            <numerusform>%n half seconds</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n packets damaged, the first at %1</source>
        <comment>%n packet damaged, the first at %1</comment>
        <translation>
            <numerusform>%n packet damaged, the first at %1</numerusform>
            <numerusform>%n packets damaged, the first at %1</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n packets of sound from %1 on are damaged or missing in %2</source>
        <comment>%n packet of sound at %1 is damaged or missing in %2</comment>
        <translation>
            <numerusform>%n packet of sound at %1 is damaged or missing in %2</numerusform>
            <numerusform>%n packets of sound from %1 on are damaged or missing in %2</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n pictures</source>
        <comment>%n picture</comment>
        <translation>
            <numerusform>%n picture</numerusform>
            <numerusform>%n pictures</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n regions added</source>
        <comment>%n region added</comment>
        <translation>
            <numerusform>%n region added</numerusform>
            <numerusform>%n regions added</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n regions changed</source>
        <comment>%n region changed</comment>
        <translation>
            <numerusform>%n region changed</numerusform>
            <numerusform>%n regions changed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n regions removed</source>
        <comment>%n region removed</comment>
        <translation>
            <numerusform>%n region removed</numerusform>
            <numerusform>%n regions removed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n shots added</source>
        <comment>%n shot added</comment>
        <translation>
            <numerusform>%n shot added</numerusform>
            <numerusform>%n shots added</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n shots changed</source>
        <comment>%n shot changed</comment>
        <translation>
            <numerusform>%n shot changed</numerusform>
            <numerusform>%n shots changed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n shots removed</source>
        <comment>%n shot removed</comment>
        <translation>
            <numerusform>%n shot removed</numerusform>
            <numerusform>%n shots removed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n sound beds added</source>
        <comment>%n sound bed added</comment>
        <translation>
            <numerusform>%n sound bed added</numerusform>
            <numerusform>%n sound beds added</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n sound beds changed</source>
        <comment>%n sound bed changed</comment>
        <translation>
            <numerusform>%n sound bed changed</numerusform>
            <numerusform>%n sound beds changed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n sound beds removed</source>
        <comment>%n sound bed removed</comment>
        <translation>
            <numerusform>%n sound bed removed</numerusform>
            <numerusform>%n sound beds removed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n sources added</source>
        <comment>%n source added</comment>
        <translation>
            <numerusform>%n source added</numerusform>
            <numerusform>%n sources added</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n sources changed</source>
        <comment>%n source changed</comment>
        <translation>
            <numerusform>%n source changed</numerusform>
            <numerusform>%n sources changed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n sources removed</source>
        <comment>%n source removed</comment>
        <translation>
            <numerusform>%n source removed</numerusform>
            <numerusform>%n sources removed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n marks</source>
        <comment>%n mark</comment>
        <translation>
            <numerusform>%n mark</numerusform>
            <numerusform>%n marks</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>at most %n pictures</source>
        <comment>at most %n picture</comment>
        <translation>
            <numerusform>at most %n picture</numerusform>
            <numerusform>at most %n pictures</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n times</source>
        <comment>once</comment>
        <translation>
            <numerusform>once</numerusform>
            <numerusform>%n times</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 MB for %n pictures</source>
        <comment>%1 MB for one picture</comment>
        <translation>
            <numerusform>%1 MB for one picture</numerusform>
            <numerusform>%1 MB for %n pictures</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>the file's time stamps go back or jump at %n places: its pictures are put in order, and time goes on evenly there</source>
        <comment>the file's time stamps go back or jump at one place: its pictures are put in order, and time goes on evenly there</comment>
        <translation>
            <numerusform>the file's time stamps go back or jump at one place: its pictures are put in order, and time goes on evenly there</numerusform>
            <numerusform>the file's time stamps go back or jump at %n places: its pictures are put in order, and time goes on evenly there</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n files are as asked</source>
        <comment>one file is as asked</comment>
        <translation>
            <numerusform>one file is as asked</numerusform>
            <numerusform>%n files are as asked</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n files are not</source>
        <comment>one file is not</comment>
        <translation>
            <numerusform>one file is not</numerusform>
            <numerusform>%n files are not</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n things are not as asked</source>
        <comment>one thing is not as asked</comment>
        <translation>
            <numerusform>one thing is not as asked</numerusform>
            <numerusform>%n things are not as asked</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>it arrived %n bytes longer than it was sent</source>
        <comment>it arrived one byte longer than it was sent</comment>
        <translation>
            <numerusform>it arrived one byte longer than it was sent</numerusform>
            <numerusform>it arrived %n bytes longer than it was sent</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>it arrived %n bytes shorter than it was sent</source>
        <comment>it arrived one byte shorter than it was sent</comment>
        <translation>
            <numerusform>it arrived one byte shorter than it was sent</numerusform>
            <numerusform>it arrived %n bytes shorter than it was sent</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>its first %n pictures are encoded, since it begins within a group</source>
        <comment>its first picture is encoded, since it begins within a group</comment>
        <translation>
            <numerusform>its first picture is encoded, since it begins within a group</numerusform>
            <numerusform>its first %n pictures are encoded, since it begins within a group</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>its last %n pictures are encoded, since it ends within a group</source>
        <comment>its last picture is encoded, since it ends within a group</comment>
        <translation>
            <numerusform>its last picture is encoded, since it ends within a group</numerusform>
            <numerusform>its last %n pictures are encoded, since it ends within a group</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>all %n shots; a check tells their cuts</source>
        <comment>the shot; a check tells its cuts</comment>
        <translation>
            <numerusform>the shot; a check tells its cuts</numerusform>
            <numerusform>all %n shots; a check tells their cuts</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>at most %1 of %n shots</source>
        <comment>not the shot</comment>
        <translation>
            <numerusform>not the shot</numerusform>
            <numerusform>at most %1 of %n shots</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n words or pictures added</source>
        <comment>%n text or picture added</comment>
        <translation>
            <numerusform>%n text or picture added</numerusform>
            <numerusform>%n words or pictures added</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n words or pictures changed</source>
        <comment>%n text or picture changed</comment>
        <translation>
            <numerusform>%n text or picture changed</numerusform>
            <numerusform>%n words or pictures changed</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n words or pictures removed</source>
        <comment>%n text or picture removed</comment>
        <translation>
            <numerusform>%n text or picture removed</numerusform>
            <numerusform>%n words or pictures removed</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::BarsPanel</name>
    <message numerus="yes">
        <source>%n pixels</source>
        <translation>
            <numerusform>1 pixel</numerusform>
            <numerusform>%n pixels</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::BenchResults</name>
    <message numerus="yes">
        <source>%1, %n more to look at</source>
        <translation>
            <numerusform>%1, %n more to look at</numerusform>
            <numerusform>%1, %n more to look at</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::CanvasChoices</name>
    <message numerus="yes">
        <source>Canvas, rate and framing hold for %n high versions, too.</source>
        <translation>
            <numerusform>Canvas, rate and framing hold for a high version, too.</numerusform>
            <numerusform>Canvas, rate and framing hold for %n high versions, too.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::CanvasDrawing</name>
    <message numerus="yes">
        <source>%n sources, %1</source>
        <translation>
            <numerusform>One source, %1</numerusform>
            <numerusform>%n sources, %1</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::CellStrip</name>
    <message numerus="yes">
        <source>%n cells</source>
        <translation>
            <numerusform>1 cell</numerusform>
            <numerusform>%n cells</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::CompareView</name>
    <message numerus="yes">
        <source>%n frames</source>
        <translation>
            <numerusform>%n frame</numerusform>
            <numerusform>%n frames</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::ConsequencePanel</name>
    <message numerus="yes">
        <source>%1, the first of %n chosen</source>
        <translation>
            <numerusform>%1, the one that is chosen</numerusform>
            <numerusform>%1, the first of %n chosen</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::CutReview</name>
    <message numerus="yes">
        <source>Split at %n cuts</source>
        <translation>
            <numerusform>Split at 1 cut</numerusform>
            <numerusform>Split at %n cuts</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n cuts</source>
        <translation>
            <numerusform>1 cut</numerusform>
            <numerusform>%n cuts</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n of them in doubt</source>
        <translation>
            <numerusform>1 of them in doubt</numerusform>
            <numerusform>%n of them in doubt</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1
in doubt: dissolves over %n frames
change %2 %</source>
        <translation>
            <numerusform>%1
in doubt: dissolves over 1 frame
change %2 %</numerusform>
            <numerusform>%1
in doubt: dissolves over %n frames
change %2 %</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::DeliverableList</name>
    <message numerus="yes">
        <source>%n to mend</source>
        <translation>
            <numerusform>1 to mend</numerusform>
            <numerusform>%n to mend</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n to look at</source>
        <translation>
            <numerusform>%n to look at</numerusform>
            <numerusform>%n to look at</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::DispatchView</name>
    <message numerus="yes">
        <source>%n files are put into the queue …</source>
        <translation>
            <numerusform>%n file is put into the queue …</numerusform>
            <numerusform>%n files are put into the queue …</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::Document</name>
    <message numerus="yes">
        <source>Bring in %n files</source>
        <translation>
            <numerusform>Bring in a file</numerusform>
            <numerusform>Bring in %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Remove %n sources</source>
        <translation>
            <numerusform>Remove a source</numerusform>
            <numerusform>Remove %n sources</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Find %n files</source>
        <translation>
            <numerusform>Find a file</numerusform>
            <numerusform>Find %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Add %n shots</source>
        <translation>
            <numerusform>Add a shot</numerusform>
            <numerusform>Add %n shots</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Remove %n shots</source>
        <translation>
            <numerusform>Remove a shot</numerusform>
            <numerusform>Remove %n shots</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Duplicate %n shots</source>
        <translation>
            <numerusform>Duplicate a shot</numerusform>
            <numerusform>Duplicate %n shots</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Put %n shots elsewhere</source>
        <translation>
            <numerusform>Put a shot elsewhere</numerusform>
            <numerusform>Put %n shots elsewhere</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Remove %n deliverables</source>
        <translation>
            <numerusform>Remove a deliverable</numerusform>
            <numerusform>Remove %n deliverables</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::EditActions</name>
    <message numerus="yes">
        <source>Re&amp;move %n shots</source>
        <translation>
            <numerusform>Re&amp;move the shot</numerusform>
            <numerusform>Re&amp;move %n shots</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Re&amp;move %n sources</source>
        <translation>
            <numerusform>Re&amp;move the source</numerusform>
            <numerusform>Re&amp;move %n sources</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Re&amp;move %n deliverables</source>
        <translation>
            <numerusform>Re&amp;move the deliverable</numerusform>
            <numerusform>Re&amp;move %n deliverables</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Add %n high versions</source>
        <translation>
            <numerusform>Add a high version</numerusform>
            <numerusform>Add %n high versions</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::ElementsDialog</name>
    <message numerus="yes">
        <source>%n captions of the file are broken and were left out, the first in line %1.</source>
        <translation>
            <numerusform>%n caption of the file is broken and was left out, in line %1.</numerusform>
            <numerusform>%n captions of the file are broken and were left out, the first in line %1.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::FileTimeline</name>
    <message numerus="yes">
        <source>The file along its time; %n things were found</source>
        <translation>
            <numerusform>The file along its time; one thing was found</numerusform>
            <numerusform>The file along its time; %n things were found</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n things were found</source>
        <translation>
            <numerusform>one thing was found</numerusform>
            <numerusform>%n things were found</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::FindingsPanel</name>
    <message numerus="yes">
        <source>%n errors</source>
        <translation>
            <numerusform>1 error</numerusform>
            <numerusform>%n errors</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n warnings</source>
        <translation>
            <numerusform>1 warning</numerusform>
            <numerusform>%n warnings</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n notes</source>
        <translation>
            <numerusform>1 note</numerusform>
            <numerusform>%n notes</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::FootageView</name>
    <message numerus="yes">
        <source>%n sources</source>
        <translation>
            <numerusform>1 source</numerusform>
            <numerusform>%n sources</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n files are missing. Shots made from them cannot be exported.</source>
        <translation>
            <numerusform>1 file is missing. Shots made from it cannot be exported.</numerusform>
            <numerusform>%n files are missing. Shots made from them cannot be exported.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::FramingDialog</name>
    <message numerus="yes">
        <source>a move of %n keys</source>
        <translation>
            <numerusform>a move of 1 key</numerusform>
            <numerusform>a move of %n keys</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::JobPanel</name>
    <message numerus="yes">
        <source>%n frames</source>
        <translation>
            <numerusform>%n frame</numerusform>
            <numerusform>%n frames</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Begun %n times</source>
        <translation>
            <numerusform>Begun once</numerusform>
            <numerusform>Begun %n times</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n copied</source>
        <translation>
            <numerusform>%n copied</numerusform>
            <numerusform>%n copied</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::MainWindow</name>
    <message numerus="yes">
        <source>Prefl&amp;ight: %n errors</source>
        <translation>
            <numerusform>Prefl&amp;ight: 1 error</numerusform>
            <numerusform>Prefl&amp;ight: %n errors</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Prefl&amp;ight: %n warnings</source>
        <translation>
            <numerusform>Prefl&amp;ight: 1 warning</numerusform>
            <numerusform>Prefl&amp;ight: %n warnings</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::MotionDialog</name>
    <message numerus="yes">
        <source>Between the frames of %n chosen shots:</source>
        <translation>
            <numerusform>Between the frames of %n chosen shot:</numerusform>
            <numerusform>Between the frames of %n chosen shots:</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::OfferBar</name>
    <message numerus="yes">
        <source>Add %n deliverables</source>
        <translation>
            <numerusform>Add a deliverable</numerusform>
            <numerusform>Add %n deliverables</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::OrderView</name>
    <message numerus="yes">
        <source>%n shots</source>
        <translation>
            <numerusform>1 shot</numerusform>
            <numerusform>%n shots</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::PictureChoices</name>
    <message numerus="yes">
        <source>At most %n in a row</source>
        <translation>
            <numerusform>At most %n in a row</numerusform>
            <numerusform>At most %n in a row</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n pictures</source>
        <translation>
            <numerusform>%n picture</numerusform>
            <numerusform>%n pictures</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::PresetDialog</name>
    <message numerus="yes">
        <source>%1: set of %n</source>
        <translation>
            <numerusform>%1: set of one</numerusform>
            <numerusform>%1: set of %n</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::ProjectFiles</name>
    <message numerus="yes">
        <source>Looking for %n files …</source>
        <translation>
            <numerusform>Looking for 1 file …</numerusform>
            <numerusform>Looking for %n files …</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n files were found.</source>
        <translation>
            <numerusform>1 file was found.</numerusform>
            <numerusform>%n files were found.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n are still missing.</source>
        <translation>
            <numerusform>1 is still missing.</numerusform>
            <numerusform>%n are still missing.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::QuestionBar</name>
    <message numerus="yes">
        <source>%1 of %n shots framed by what was found, %2 of them in doubt</source>
        <translation>
            <numerusform>%1 of 1 shot framed by what was found, %2 in doubt</numerusform>
            <numerusform>%1 of %n shots framed by what was found, %2 of them in doubt</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%1 of %n shots framed by what was found</source>
        <translation>
            <numerusform>%1 of 1 shot framed by what was found</numerusform>
            <numerusform>%1 of %n shots framed by what was found</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n other shots of the same source are framed by a guess</source>
        <translation>
            <numerusform>1 other shot of the same source is framed by a guess</numerusform>
            <numerusform>%n other shots of the same source are framed by a guess</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n cells fall short of the canvas, question %1 of %2</source>
        <translation>
            <numerusform>one cell falls short of the canvas, question %1 of %2</numerusform>
            <numerusform>%n cells fall short of the canvas, question %1 of %2</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n other shots with the same face are framed by a guess</source>
        <translation>
            <numerusform>1 other shot with the same face is framed by a guess</numerusform>
            <numerusform>%n other shots with the same face are framed by a guess</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n other shots of the same source or with the same face are framed by a guess</source>
        <translation>
            <numerusform>1 other shot of the same source or with the same face is framed by a guess</numerusform>
            <numerusform>%n other shots of the same source or with the same face are framed by a guess</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Frame %n others like the last one</source>
        <translation>
            <numerusform>Frame 1 other like the last one</numerusform>
            <numerusform>Frame %n others like the last one</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::QueueList</name>
    <message numerus="yes">
        <source>as asked · %n checks</source>
        <translation>
            <numerusform>as asked · %n check</numerusform>
            <numerusform>as asked · %n checks</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::SendForm</name>
    <message numerus="yes">
        <source>%n more errors</source>
        <translation>
            <numerusform>%n more error</numerusform>
            <numerusform>%n more errors</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n shots with bars</source>
        <translation>
            <numerusform>1 shot with bars</numerusform>
            <numerusform>%n shots with bars</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n shots soft</source>
        <translation>
            <numerusform>1 shot soft</numerusform>
            <numerusform>%n shots soft</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n more to look at</source>
        <translation>
            <numerusform>%n more to look at</numerusform>
            <numerusform>%n more to look at</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>… and %n more</source>
        <translation>
            <numerusform>… and %n more</numerusform>
            <numerusform>… and %n more</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>E&amp;xport %n files</source>
        <translation>
            <numerusform>E&amp;xport %n file</numerusform>
            <numerusform>E&amp;xport %n files</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>
… and %n more</source>
        <translation>
            <numerusform>
… and %n more</numerusform>
            <numerusform>
… and %n more</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>Preflight finds %n errors.</source>
        <translation>
            <numerusform>Preflight finds %n error.</numerusform>
            <numerusform>Preflight finds %n errors.</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n files are there already.</source>
        <translation>
            <numerusform>A file is there already.</numerusform>
            <numerusform>%n files are there already.</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::SheetModel</name>
    <message numerus="yes">
        <source>, %n more</source>
        <translation>
            <numerusform>, %n more</numerusform>
            <numerusform>, %n more</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n to look at</source>
        <translation>
            <numerusform>%n to look at</numerusform>
            <numerusform>%n to look at</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n more</source>
        <translation>
            <numerusform>%n more</numerusform>
            <numerusform>%n more</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source> · %n versions</source>
        <translation>
            <numerusform> · %n version</numerusform>
            <numerusform> · %n versions</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::SheetView</name>
    <message numerus="yes">
        <source>%n shots</source>
        <translation>
            <numerusform>1 shot</numerusform>
            <numerusform>%n shots</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::TopBar</name>
    <message numerus="yes">
        <source>measuring %n sources</source>
        <translation>
            <numerusform>measuring 1 source</numerusform>
            <numerusform>measuring %n sources</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n to mend</source>
        <translation>
            <numerusform>%n to mend</numerusform>
            <numerusform>%n to mend</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>%n to look at</source>
        <translation>
            <numerusform>%n to look at</numerusform>
            <numerusform>%n to look at</numerusform>
        </translation>
    </message>
    <message numerus="yes">
        <source>looking for what matters in %n shots</source>
        <translation>
            <numerusform>looking for what matters in 1 shot</numerusform>
            <numerusform>looking for what matters in %n shots</numerusform>
        </translation>
    </message>
</context>
<context>
    <name>tromb::WatchView</name>
    <message numerus="yes">
        <source>%n pictures left out</source>
        <translation>
            <numerusform>%n picture left out</numerusform>
            <numerusform>%n pictures left out</numerusform>
        </translation>
    </message>
</context>
</TS>
