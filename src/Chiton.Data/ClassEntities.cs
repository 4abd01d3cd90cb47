namespace Chiton.Data;

/// <summary>Who somebody is in the room.</summary>
public enum RoomRole
{
    /// <summary>A team: its own rigs.</summary>
    Team,

    /// <summary>The educator on another device than the desk.</summary>
    Educator,

    /// <summary>A judge: scores.</summary>
    Judge,
}

/// <summary>A class: teams that learn together.</summary>
public sealed class ClassRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Its name.</summary>
    public required string Name { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedUtc { get; set; }
}

/// <summary>A team of a class.</summary>
public sealed class TeamRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>The class.</summary>
    public long ClassId { get; set; }

    /// <summary>Its name; there is one of each in a class.</summary>
    public required string Name { get; set; }

    /// <summary>The table it sits at, from 1.</summary>
    public int Table { get; set; }

    /// <summary>Its own code, with which further devices join it.</summary>
    public required string Code { get; set; }

    /// <summary>Since when its hand is up, UTC; null when it is down.</summary>
    public DateTime? HandUpUtc { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedUtc { get; set; }
}

/// <summary>One opening of a class's room.</summary>
public sealed class RoomRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The class.</summary>
    public long ClassId { get; set; }

    /// <summary>When it was opened, UTC.</summary>
    public DateTime OpenedUtc { get; set; }

    /// <summary>When it was closed, UTC; null while it is open.</summary>
    public DateTime? ClosedUtc { get; set; }

    /// <summary>Addresses that it was opened at, comma-separated.</summary>
    public required string Addresses { get; set; }

    /// <summary>The code that teams join with.</summary>
    public required string JoinCode { get; set; }

    /// <summary>The code that judges join with.</summary>
    public required string JudgeCode { get; set; }

    /// <summary>When the lesson ends, UTC; null when nobody said.</summary>
    public DateTime? EndsUtc { get; set; }

    /// <summary>What the educator says to all; may be empty.</summary>
    public string Message { get; set; } = "";
}

/// <summary>A device in the room. What it holds is kept as its hash alone.</summary>
public sealed class SessionRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>The class.</summary>
    public long ClassId { get; set; }

    /// <summary>Who it is.</summary>
    public RoomRole Role { get; set; }

    /// <summary>Its team; null for others.</summary>
    public long? TeamId { get; set; }

    /// <summary>SHA-256 of its token, hexadecimal.</summary>
    public required string Hash { get; set; }

    /// <summary>When it ends, UTC.</summary>
    public DateTime UntilUtc { get; set; }
}

/// <summary>A course: lessons in order.</summary>
public sealed class CourseRow
{
    /// <summary>Address, lower-case words with hyphens.</summary>
    public required string Id { get; set; }

    /// <summary>Number of the current version.</summary>
    public int Head { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedUtc { get; set; }

    /// <summary>True when it is put away: it stays whole, but stands apart in the list.</summary>
    public bool Archived { get; set; }
}

/// <summary>A version of a course. Never changed once written.</summary>
public sealed class CourseVersionRow
{
    /// <summary>Address of the course.</summary>
    public required string CourseId { get; set; }

    /// <summary>Number, from 1.</summary>
    public int Number { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>What changed, in words.</summary>
    public required string What { get; set; }

    /// <summary>The course as JSON.</summary>
    public required string Document { get; set; }
}

/// <summary>A lesson that was handed out to a team, as it was then, or as the team took it over since.</summary>
public sealed class AssignmentRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The team.</summary>
    public long TeamId { get; set; }

    /// <summary>Address of the course.</summary>
    public required string CourseId { get; set; }

    /// <summary>The version of the course.</summary>
    public int Version { get; set; }

    /// <summary>Name of the lesson.</summary>
    public required string Lesson { get; set; }

    /// <summary>The lesson as JSON.</summary>
    public required string Document { get; set; }

    /// <summary>Address of the team's rig for it; null until a team that brings its own has chosen.</summary>
    public string? RigId { get; set; }

    /// <summary>How many hints the team has opened.</summary>
    public int Hints { get; set; }

    /// <summary>When it was handed out, UTC.</summary>
    public DateTime TimeUtc { get; set; }
}

/// <summary>What became of something that was offered.</summary>
public enum OfferState
{
    /// <summary>Nobody has decided yet.</summary>
    Open,

    /// <summary>It was taken.</summary>
    Taken,

    /// <summary>It was not.</summary>
    Left,
}

/// <summary>A change of a lesson or of its program that is offered to a team that has it already.</summary>
public sealed class OfferRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The team.</summary>
    public long TeamId { get; set; }

    /// <summary>The team's rig whose program would change; null where only the lesson does.</summary>
    public string? RigId { get; set; }

    /// <summary>What was handed out and would change; null where only the program does.</summary>
    public long? AssignmentId { get; set; }

    /// <summary>The version of the course that the lesson is of; 0 where only the program changes.</summary>
    public int Version { get; set; }

    /// <summary>The lesson, or the sentence, as JSON.</summary>
    public required string Document { get; set; }

    /// <summary>What changes, in words.</summary>
    public required string Say { get; set; }

    /// <summary>What became of it.</summary>
    public OfferState State { get; set; }

    /// <summary>When it was offered, UTC.</summary>
    public DateTime TimeUtc { get; set; }
}

/// <summary>Something that a team handed in. What was handed in is never changed; marks are added.</summary>
public sealed class HandInRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The team.</summary>
    public long TeamId { get; set; }

    /// <summary>What was handed out.</summary>
    public long AssignmentId { get; set; }

    /// <summary>Its number, from 1: it can be handed in again.</summary>
    public int Number { get; set; }

    /// <summary>Address of the rig.</summary>
    public required string RigId { get; set; }

    /// <summary>The revision.</summary>
    public int Revision { get; set; }

    /// <summary>The copy.</summary>
    public int Copy { get; set; }

    /// <summary>What was known of it then, as JSON.</summary>
    public required string Document { get; set; }

    /// <summary>What the team says to it; the answer, where one was asked for.</summary>
    public string Says { get; set; } = "";

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }

    /// <summary>The team's own marks, as JSON; empty until it has marked.</summary>
    public string TeamMarks { get; set; } = "";

    /// <summary>The educator's marks, as JSON; empty until they have marked.</summary>
    public string EducatorMarks { get; set; } = "";

    /// <summary>What the educator says to it; may be empty.</summary>
    public string Note { get; set; } = "";
}

/// <summary>An exercise that was asked.</summary>
public sealed class ExerciseRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The team; null at the desk.</summary>
    public long? TeamId { get; set; }

    /// <summary>Its kind.</summary>
    public Core.Classroom.Training.ExerciseKind Kind { get; set; }

    /// <summary>SHA-256 of what makes it the one it is, hexadecimal.</summary>
    public required string Same { get; set; }

    /// <summary>The exercise with its answer, as JSON.</summary>
    public required string Document { get; set; }

    /// <summary>When it was asked, UTC.</summary>
    public DateTime AskedUtc { get; set; }

    /// <summary>When it was answered, UTC; null while it was not.</summary>
    public DateTime? AnsweredUtc { get; set; }

    /// <summary>Whether the answer was right.</summary>
    public bool Right { get; set; }

    /// <summary>How good it was, 0 to 1.</summary>
    public double Score { get; set; }
}

/// <summary>A challenge that is kept at the desk.</summary>
public sealed class ChallengeRow
{
    /// <summary>Address, lower-case words with hyphens.</summary>
    public required string Id { get; set; }

    /// <summary>How often it was changed, from 1.</summary>
    public int Version { get; set; }

    /// <summary>The challenge as JSON.</summary>
    public required string Document { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedUtc { get; set; }

    /// <summary>True when it is put away: it stays whole, but stands apart in the list.</summary>
    public bool Archived { get; set; }
}

/// <summary>The heats of a class at a challenge: who meets whom, and what came of it.</summary>
public sealed class HeatsRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The class.</summary>
    public long ClassId { get; set; }

    /// <summary>The challenge as it was when they began, as JSON.</summary>
    public required string Document { get; set; }

    /// <summary>How long a run lasts at most, s.</summary>
    public double LimitS { get; set; }

    /// <summary>The teams in their order, as JSON.</summary>
    public required string Entries { get; set; }

    /// <summary>What the bench said of their machines, as JSON; empty until it was asked.</summary>
    public string Runs { get; set; } = "";

    /// <summary>When it was asked, UTC; null until then.</summary>
    public DateTime? RunsUtc { get; set; }

    /// <summary>When they began, UTC.</summary>
    public DateTime CreatedUtc { get; set; }
}

/// <summary>Something that happened in heats. Never changed once written.</summary>
public sealed class HeatEventRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The heats.</summary>
    public long HeatsId { get; set; }

    /// <summary>What happened, as JSON, without its number.</summary>
    public required string Document { get; set; }

    /// <summary>Who wrote it down: the desk, an educator, a judge.</summary>
    public required string Who { get; set; }

    /// <summary>When, UTC.</summary>
    public DateTime TimeUtc { get; set; }
}
