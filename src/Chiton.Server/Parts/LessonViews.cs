using Chiton.Core.Classroom;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A lesson that a team has, as the team sees it.</summary>
/// <param name="Id">Key of what was handed out.</param>
/// <param name="Name">Name of the lesson.</param>
/// <param name="Team">Name of the team.</param>
/// <param name="Task">The task.</param>
/// <param name="Minutes">How long it takes, minutes.</param>
/// <param name="Done">What counts as done, in words.</param>
/// <param name="Question">The question that is answered on handing in; empty where none is.</param>
/// <param name="Met">Whether it is done; null where only the educator can say, or nothing was counted yet.</param>
/// <param name="Progress">How far it is, in words.</param>
/// <param name="Rig">Address of the team's rig; null until a team that brings its own has chosen.</param>
/// <param name="RigName">The rig's name.</param>
/// <param name="BringsOwn">True where the team brings its own rig.</param>
/// <param name="Own">Rigs that it can choose from then.</param>
/// <param name="Begins">What it begins with, in words; empty for the rig's own program.</param>
/// <param name="LeavesOut">What the lesson does not offer, in words; empty where it offers all.</param>
/// <param name="Hints">The hints that are open.</param>
/// <param name="MoreHints">How many more there are.</param>
/// <param name="Walks">Names of walks that are shown as examples.</param>
/// <param name="Rubric">What it is marked by.</param>
/// <param name="Different">How many sentences differ from what was handed out; null where there is no rig yet.</param>
/// <param name="HandedIn">What was handed in, the latest first.</param>
/// <param name="Offers">Changes that are offered and not decided.</param>
public sealed record LessonOfTeam(
    long Id,
    string Name,
    string Team,
    string Task,
    int Minutes,
    string Done,
    string Question,
    bool? Met,
    string Progress,
    string? Rig,
    string RigName,
    bool BringsOwn,
    IReadOnlyList<RigName> Own,
    string Begins,
    IReadOnlyList<string> LeavesOut,
    IReadOnlyList<string> Hints,
    int MoreHints,
    IReadOnlyList<string> Walks,
    IReadOnlyList<RubricRow> Rubric,
    int? Different,
    IReadOnlyList<HandInView> HandedIn,
    IReadOnlyList<OfferView> Offers
);

/// <summary>What a team has: its lessons, and changes of rigs that are of none.</summary>
/// <param name="Lessons">Its lessons, the latest first.</param>
/// <param name="Offers">Changes of programs that were handed out without a lesson.</param>
public sealed record LessonsOfTeam(IReadOnlyList<LessonOfTeam> Lessons, IReadOnlyList<OfferView> Offers);

/// <summary>Something that was handed in.</summary>
/// <param name="Id">Key.</param>
/// <param name="Number">Its number, from 1.</param>
/// <param name="TimeUtc">When.</param>
/// <param name="Rig">Address of the rig.</param>
/// <param name="Revision">The revision that is pinned.</param>
/// <param name="Copy">The copy.</param>
/// <param name="Known">What was known of it then.</param>
/// <param name="Says">What the team says to it.</param>
/// <param name="TeamMarks">The team's own marks, one a row of the rubric; none until it has marked.</param>
/// <param name="EducatorMarks">The educator's; a team sees them once it has marked itself.</param>
/// <param name="Note">What the educator says to it; a team sees it once it has marked itself.</param>
/// <param name="Waits">True where the educator has marked and the team sees it once it has.</param>
public sealed record HandInView(
    long Id,
    int Number,
    DateTime TimeUtc,
    string Rig,
    int Revision,
    int Copy,
    HandedIn Known,
    string Says,
    IReadOnlyList<int?> TeamMarks,
    IReadOnlyList<int?> EducatorMarks,
    string Note,
    bool Waits
)
{
    /// <summary>As it is seen.</summary>
    /// <param name="h">What was handed in.</param>
    /// <param name="team">True for the team itself.</param>
    public static HandInView Of(HandInRow h, bool team)
    {
        var hides = team && h.TeamMarks == "";
        return new(
            h.Id,
            h.Number,
            DateTime.SpecifyKind(h.TimeUtc, DateTimeKind.Utc),
            h.RigId,
            h.Revision,
            h.Copy,
            Documents.Read<HandedIn>(h.Document),
            h.Says,
            FileHandIn.Marks(h.TeamMarks),
            hides ? [] : FileHandIn.Marks(h.EducatorMarks),
            hides ? "" : h.Note,
            hides && h.EducatorMarks != ""
        );
    }
}

/// <summary>A change that is offered to a team.</summary>
/// <param name="Id">Key.</param>
/// <param name="Say">What changes, in words.</param>
/// <param name="Rig">Address of the rig whose program changes; null where the lesson does.</param>
/// <param name="TimeUtc">When it was offered.</param>
public sealed record OfferView(long Id, string Say, string? Rig, DateTime TimeUtc);

/// <summary>Opens a hint.</summary>
/// <param name="Number">Which, from 1: the next one.</param>
public sealed record HintRequest(int Number);

/// <summary>Says which rig a team brings.</summary>
/// <param name="Rig">Its address.</param>
public sealed record ChooseRig(string? Rig);

/// <summary>Hands something in.</summary>
/// <param name="Says">A sentence of the team's own; the answer, where one is asked for.</param>
/// <param name="Copy">The copy; the latest when left out.</param>
public sealed record HandInRequest(string? Says, int? Copy = null);

/// <summary>Marks something that was handed in.</summary>
/// <param name="Levels">A level for each row of the rubric, the lowest 0; nothing where it is not marked.</param>
/// <param name="Note">What the educator says to it; as it is when left out.</param>
public sealed record MarksRequest(IReadOnlyList<double?>? Levels, string? Note = null);

/// <summary>Takes an offer, or leaves it.</summary>
/// <param name="Take">True to take it.</param>
public sealed record DecideRequest(bool? Take);

/// <summary>What became of an offer.</summary>
/// <param name="Say">So, in words.</param>
/// <param name="Revision">The rig's current revision; null where no program changed.</param>
public sealed record Decided(string Say, int? Revision);

/// <summary>What a class has of lessons.</summary>
/// <param name="Lessons">The lessons, in the order they were handed out.</param>
public sealed record ClassLessons(IReadOnlyList<ClassLesson> Lessons);

/// <summary>A lesson that a class has.</summary>
/// <param name="Course">Address of the course.</param>
/// <param name="CourseName">Its name; the address where it is gone.</param>
/// <param name="Lesson">Name of the lesson.</param>
/// <param name="Minutes">How long it takes.</param>
/// <param name="Done">What counts as done, in words.</param>
/// <param name="Rubric">What it is marked by.</param>
/// <param name="Changed">What was changed in the lesson since the first team got it, in a word or two; empty when nothing was.</param>
/// <param name="Teams">The teams that have it.</param>
public sealed record ClassLesson(
    string Course,
    string CourseName,
    string Lesson,
    int Minutes,
    string Done,
    IReadOnlyList<RubricRow> Rubric,
    IReadOnlyList<string> Changed,
    IReadOnlyList<ClassLessonTeam> Teams
);

/// <summary>How far a team is with a lesson.</summary>
/// <param name="Assignment">Key of what was handed out.</param>
/// <param name="Team">Key of the team.</param>
/// <param name="Name">Its name.</param>
/// <param name="Table">Its table.</param>
/// <param name="Rig">Address of its rig; null while it has none.</param>
/// <param name="Met">Whether it is done; null where only the educator can say, or nothing was counted yet.</param>
/// <param name="Progress">How far it is, in words.</param>
/// <param name="Hints">How many hints it opened.</param>
/// <param name="Minutes">Whole minutes since it was handed out.</param>
/// <param name="Open">Offers that it has not decided.</param>
/// <param name="HandedIn">What it handed in, the latest first.</param>
public sealed record ClassLessonTeam(
    long Assignment,
    long Team,
    string Name,
    int Table,
    string? Rig,
    bool? Met,
    string Progress,
    int Hints,
    int Minutes,
    int Open,
    IReadOnlyList<HandInView> HandedIn
);

/// <summary>Hands a lesson out.</summary>
/// <param name="Course">Address of the course.</param>
/// <param name="Lesson">Name of the lesson.</param>
/// <param name="Teams">The teams; all of the class that have it not yet, when left out.</param>
/// <param name="Clock">True to let the room's time run for as long as the lesson takes.</param>
public sealed record HandOutLesson(string? Course, string? Lesson, IReadOnlyList<long>? Teams = null, bool? Clock = null);

/// <summary>What changed of something since it was handed out.</summary>
/// <param name="Lesson">What changed in the lesson, in a word or two; empty when nothing did.</param>
/// <param name="Lines">Changed sentences of its program that can be offered, one by one.</param>
/// <param name="Rest">How many changes can only be put in by hand.</param>
/// <param name="Teams">How many teams have it.</param>
public sealed record ChangesToOffer(IReadOnlyList<string> Lesson, IReadOnlyList<string> Lines, int Rest, int Teams);

/// <summary>Offers a change to the teams that have it.</summary>
/// <param name="Course">Address of the course; null for a rig that was handed out by itself.</param>
/// <param name="Lesson">Name of the lesson.</param>
/// <param name="Rig">Address of the desk's rig, for one that was handed out by itself.</param>
/// <param name="Line">The changed sentence in words, as it was told; null for the lesson's own words.</param>
public sealed record OfferRequest(string? Course, string? Lesson, string? Rig, string? Line);

/// <summary>How many teams something was offered to.</summary>
/// <param name="Teams">How many.</param>
/// <param name="Say">So, in words.</param>
public sealed record Offering(int Teams, string Say);
