using Chiton.Core.Classroom;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>A class in the list.</summary>
/// <param name="Id">Key.</param>
/// <param name="Name">Its name.</param>
/// <param name="Teams">How many teams it has.</param>
/// <param name="Open">True while its room is open.</param>
public sealed record ClassItem(long Id, string Name, int Teams, bool Open);

/// <summary>A class with its teams.</summary>
/// <param name="Id">Key.</param>
/// <param name="Name">Its name.</param>
/// <param name="Open">True while its room is open.</param>
/// <param name="Teams">Its teams by their tables.</param>
/// <param name="Backups">Names of backups that still hold it, should it be deleted.</param>
public sealed record ClassView(long Id, string Name, bool Open, IReadOnlyList<TeamView> Teams, IReadOnlyList<string> Backups);

/// <summary>A team as the educator sees it.</summary>
/// <param name="Id">Key.</param>
/// <param name="Name">Its name.</param>
/// <param name="Table">The table it sits at, from 1.</param>
/// <param name="Code">Its own code, in groups as it is read aloud.</param>
/// <param name="Devices">Devices that have joined it.</param>
/// <param name="Rigs">Its rigs.</param>
public sealed record TeamView(long Id, string Name, int Table, string Code, int Devices, IReadOnlyList<TeamRigView> Rigs);

/// <summary>A team's rig.</summary>
/// <param name="Id">Its address.</param>
/// <param name="Name">Its name.</param>
/// <param name="Origin">Name of the rig it was handed out from; null where it was not, or that one is gone.</param>
/// <param name="OriginRevision">The revision of that rig.</param>
/// <param name="Different">How many sentences of its programs differ from what was handed out; null where it was not.</param>
public sealed record TeamRigView(string Id, string Name, string? Origin, int? OriginRevision, int? Different);

/// <summary>Names a class or a team.</summary>
/// <param name="Name">The name.</param>
/// <param name="Table">Of a team: its table, from 1; the first free one, or as it is, when left out.</param>
public sealed record NameRequest(string? Name, double? Table = null);

/// <summary>Hands a rig out.</summary>
/// <param name="Rig">Address of the desk's rig.</param>
/// <param name="Teams">The teams; all of the class when left out.</param>
public sealed record HandOutRequest(string? Rig, IReadOnlyList<long>? Teams = null);

/// <summary>What was handed out.</summary>
/// <param name="Rigs">Addresses of the rigs that were made.</param>
/// <param name="Say">What was done, in words.</param>
public sealed record HandedOut(IReadOnlyList<string> Rigs, string Say);

/// <summary>Two rigs of a class held against each other, sentence by sentence.</summary>
/// <param name="Changes">What differs: before is the second, or what was handed out; after is the first.</param>
/// <param name="One">Revision of the first.</param>
/// <param name="Two">Revision of the second, or the one that was handed out.</param>
public sealed record TeamsCompared(IReadOnlyList<Core.Programs.Language.ProgramChange> Changes, int One, int Two);

/// <summary>Opens the room.</summary>
/// <param name="Class">The class.</param>
/// <param name="Addresses">Where; everywhere that others can reach this machine at when left out.</param>
/// <param name="Minutes">How long the lesson lasts, 1 to 600 minutes; not said when left out.</param>
public sealed record OpenRoomRequest(long? Class, IReadOnlyList<string>? Addresses = null, double? Minutes = null);

/// <summary>An address that the room can be opened at.</summary>
/// <param name="Address">The address.</param>
/// <param name="Url">As it stands in a browser.</param>
public sealed record RoomAddress(string Address, string Url);

/// <summary>The room as the educator sees it.</summary>
/// <param name="Open">True while it is open.</param>
/// <param name="Class">The class; null while it is closed.</param>
/// <param name="ClassName">Its name; empty while it is closed.</param>
/// <param name="Urls">Where it is open, as it stands in a browser.</param>
/// <param name="JoinCode">The code that teams join with, in groups.</param>
/// <param name="JudgeCode">The code that judges join with.</param>
/// <param name="LeftS">Seconds of the lesson left, 0 when it is over; null when nobody said when it ends.</param>
/// <param name="Message">What is said to all; may be empty.</param>
/// <param name="Locked">True when too many wrong codes were tried and joining waits for the desk.</param>
/// <param name="WrongCodes">Wrong codes since the desk let joining go on last.</param>
public sealed record RoomView(
    bool Open,
    long? Class,
    string ClassName,
    IReadOnlyList<string> Urls,
    string JoinCode,
    string JudgeCode,
    double? LeftS,
    string Message,
    bool Locked,
    int WrongCodes
);

/// <summary>What may be shown on a wall.</summary>
/// <param name="ClassName">Name of the class.</param>
/// <param name="Url">Where to join; empty while the room is closed.</param>
/// <param name="JoinCode">The code to join with.</param>
/// <param name="Squares">The address, with the code, as a picture to be read by a camera: a row a text, 1 for dark.</param>
/// <param name="LeftS">Seconds of the lesson left, 0 when it is over; null when nobody said when it ends.</param>
/// <param name="Message">What is said to all.</param>
/// <param name="Teams">The teams.</param>
public sealed record ProjectorView(
    string ClassName,
    string Url,
    string JoinCode,
    IReadOnlyList<string> Squares,
    double? LeftS,
    string Message,
    IReadOnlyList<ProjectedTeam> Teams
);

/// <summary>What may be shown of a team.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Table">Its table.</param>
/// <param name="Part">In which part it is; empty while nobody knows.</param>
/// <param name="HandUp">True while its hand is up.</param>
public sealed record ProjectedTeam(string Name, int Table, string Part, bool HandUp);

/// <summary>The board of the room.</summary>
/// <param name="Order">How it is ordered.</param>
/// <param name="Lines">A line a team.</param>
public sealed record BoardView(BoardOrder Order, IReadOnlyList<BoardLine> Lines);

/// <summary>A team's line on the board.</summary>
/// <param name="Team">Key.</param>
/// <param name="Name">Its name.</param>
/// <param name="Table">Its table.</param>
/// <param name="Code">Its own code.</param>
/// <param name="Rig">Address of the rig it works on; null while it has none.</param>
/// <param name="RigName">The rig's name.</param>
/// <param name="Part">In which part it is; empty while nobody knows.</param>
/// <param name="Rate">How often its machine works, in words.</param>
/// <param name="Likely">The range, or what to do.</param>
/// <param name="Holds">True when its controller holds what is on the screen; null where nothing was sent.</param>
/// <param name="Finding">Its first finding that is not settled, or what is known of them.</param>
/// <param name="Unsettled">True where there is such a finding.</param>
/// <param name="Unchanged">Whole minutes without a change.</param>
/// <param name="HandMin">For how many whole minutes its hand has been up; null when it is down.</param>
/// <param name="Pages">How many of its pages are connected.</param>
/// <param name="Lesson">The lesson that its rig is of, or that it was handed last; empty where it has none.</param>
/// <param name="LessonSay">How far it is with it: hints opened, minutes over, handed in; empty where there is nothing to say.</param>
public sealed record BoardLine(
    long Team,
    string Name,
    int Table,
    string Code,
    string? Rig,
    string RigName,
    string Part,
    string Rate,
    string Likely,
    bool? Holds,
    string Finding,
    bool Unsettled,
    int Unchanged,
    int? HandMin,
    int Pages,
    string Lesson,
    string LessonSay
);

/// <summary>Who this page is.</summary>
/// <param name="Who">desk, educator, team, judge or stranger.</param>
/// <param name="Open">True while the room is open.</param>
/// <param name="Team">Of a team: what it is.</param>
/// <param name="ClassName">Name of the class; empty at the desk while the room is closed, and for a stranger.</param>
/// <param name="LeftS">Seconds of the lesson left, 0 when it is over; null when nobody said when it ends.</param>
/// <param name="Message">What the educator says to all; may be empty.</param>
/// <param name="Hands">At the desk: how many hands are up.</param>
public sealed record MeView(string Who, bool Open, MyTeam? Team, string ClassName, double? LeftS, string Message, int Hands);

/// <summary>A team as it sees itself.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Table">Its table.</param>
/// <param name="Code">Its own code, with which another device joins it.</param>
/// <param name="HandUp">True while its hand is up.</param>
/// <param name="Waits">How many changes are offered to it that it has not decided.</param>
/// <param name="Heats">True once heats of its class have begun.</param>
public sealed record MyTeam(string Name, int Table, string Code, bool HandUp, int Waits, bool Heats);

/// <summary>Joins the room.</summary>
/// <param name="Code">The code.</param>
/// <param name="Team">With the code of the class: the name of the new team.</param>
/// <param name="Table">The table it sits at, from 1; the first where nobody sits when left out.</param>
public sealed record JoinRequest(string? Code, string? Team = null, double? Table = null);

/// <summary>What came of joining.</summary>
/// <param name="Who">team, educator or judge; null where the name of a new team is still wanted.</param>
/// <param name="Team">The team's name; null for others.</param>
public sealed record Joined(string? Who, string? Team);

/// <summary>Puts a hand up or down.</summary>
/// <param name="Up">True to put it up.</param>
public sealed record HandRequest(bool? Up);

/// <summary>Says something to all.</summary>
/// <param name="Text">What; empty to take it away. At most 200 letters.</param>
public sealed record SayRequest(string? Text);

/// <summary>Gives more minutes.</summary>
/// <param name="Minutes">How many, −600 to 600; counted from now where no end was said.</param>
public sealed record MinutesRequest(double? Minutes);

/// <summary>A code for another device of the educator.</summary>
/// <param name="Code">The code, in groups.</param>
/// <param name="UntilUtc">When it ends.</param>
public sealed record EducatorCode(string Code, DateTime UntilUtc);
