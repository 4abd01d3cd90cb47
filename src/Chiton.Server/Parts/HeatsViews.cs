using Chiton.Core.Classroom;
using Chiton.Data;

namespace Chiton.Server.Parts;

/// <summary>Heats in a list.</summary>
/// <param name="Id">Key.</param>
/// <param name="Name">Name of the challenge.</param>
/// <param name="Teams">How many teams meet.</param>
/// <param name="Held">Heats that count.</param>
/// <param name="All">Heats in all, without those of teams that withdrew.</param>
/// <param name="BeganUtc">When they began.</param>
/// <param name="Leads">Who is first, by name; empty while nothing counts.</param>
public sealed record HeatsItem(long Id, string Name, int Teams, int Held, int All, DateTime BeganUtc, string Leads);

/// <summary>A team of heats.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Withdrawn">True once it withdrew.</param>
/// <param name="Reruns">Re-runs that it has had.</param>
/// <param name="Rig">Address of the rig that it enters, for the educator; null for none, and for others.</param>
/// <param name="Rigs">Rigs that could be entered, for the educator.</param>
/// <param name="Missing">Why the bench could not run its machine; empty where it could, or was not asked.</param>
/// <param name="Typical">The middle of its scores in the bench; null where there is none.</param>
public sealed record HeatTeam(
    string Name,
    bool Withdrawn,
    int Reruns,
    string? Rig,
    IReadOnlyList<RigName> Rigs,
    string Missing,
    double? Typical
);

/// <summary>A heat as it stands.</summary>
/// <param name="First">The team in the first lane, by its place in the list.</param>
/// <param name="Second">The team in the second lane.</param>
/// <param name="Held">True where it has a result that counts.</param>
/// <param name="FirstScore">Score of the first lane; null where there is none.</param>
/// <param name="SecondScore">Score of the second lane.</param>
/// <param name="Winner">1 the first, −1 the second, 0 nobody.</param>
/// <param name="By">Number of what it was scored by; 0 for nothing.</param>
/// <param name="Off">True where one of the two withdrew.</param>
/// <param name="FirstWins">How likely the first wins, by the bench; null where it was not asked.</param>
/// <param name="Draws">How likely nobody wins.</param>
public sealed record HeatView(
    int First,
    int Second,
    bool Held,
    double? FirstScore,
    double? SecondScore,
    int Winner,
    long By,
    bool Off,
    double? FirstWins,
    double? Draws
);

/// <summary>A round.</summary>
/// <param name="Number">Number, from 1.</param>
/// <param name="Bye">The team that has a bye; null where none has.</param>
/// <param name="Heats">Its heats.</param>
public sealed record HeatRound(int Number, int? Bye, IReadOnlyList<HeatView> Heats);

/// <summary>A line of the table.</summary>
/// <param name="Team">The team, by its place in the list.</param>
/// <param name="Place">Its place.</param>
/// <param name="Played">Heats it was in.</param>
/// <param name="Won">Heats it won.</param>
/// <param name="Drawn">Heats that nobody won.</param>
/// <param name="Points">Two a win, one a draw.</param>
/// <param name="Best">Its best score; null while it has none.</param>
/// <param name="Total">All its scores together.</param>
/// <param name="Before">How likely each place was before the first heat, by the bench; empty where it was not asked.</param>
/// <param name="Now">How likely each place is now.</param>
public sealed record HeatTableLine(
    int Team,
    int Place,
    int Played,
    int Won,
    int Drawn,
    int Points,
    double? Best,
    double Total,
    IReadOnlyList<double> Before,
    IReadOnlyList<double> Now
);

/// <summary>Something that happened.</summary>
/// <param name="Id">Number.</param>
/// <param name="Kind">What.</param>
/// <param name="Say">The same, in words.</param>
/// <param name="Who">Who wrote it down.</param>
/// <param name="TimeUtc">When.</param>
/// <param name="Undone">True once it was taken back.</param>
public sealed record HeatTrace(long Id, HeatEventKind Kind, string Say, string Who, DateTime TimeUtc, bool Undone);

/// <summary>Heats as every device shows them.</summary>
/// <param name="Id">Key.</param>
/// <param name="Class">Key of the class.</param>
/// <param name="Name">Name of the challenge.</param>
/// <param name="Task">What is to be done.</param>
/// <param name="Rules">All rules, in sentences.</param>
/// <param name="By">What is scored by.</param>
/// <param name="Unit">Unit of the scores.</param>
/// <param name="LimitS">How long a run lasts at most, s.</param>
/// <param name="Together">True where both are in one place.</param>
/// <param name="Touches">How often a team may touch its machine in a run.</param>
/// <param name="Reruns">Re-runs that a team may ask for.</param>
/// <param name="Falls">True where falls are counted: they cost something.</param>
/// <param name="Teams">The teams in their order.</param>
/// <param name="Rounds">The rounds.</param>
/// <param name="Table">The table.</param>
/// <param name="Next">The next heat; null where none is left.</param>
/// <param name="Trace">What happened, the latest first.</param>
/// <param name="SimulatedUtc">When the bench was asked; null until then.</param>
/// <param name="SimulatedRuns">How many runs it made.</param>
public sealed record HeatsView(
    long Id,
    long Class,
    string Name,
    string Task,
    IReadOnlyList<string> Rules,
    HeatScore By,
    string Unit,
    double LimitS,
    bool Together,
    int Touches,
    int Reruns,
    bool Falls,
    IReadOnlyList<HeatTeam> Teams,
    IReadOnlyList<HeatRound> Rounds,
    IReadOnlyList<HeatTableLine> Table,
    HeatView? Next,
    IReadOnlyList<HeatTrace> Trace,
    DateTime? SimulatedUtc,
    int SimulatedRuns
);

/// <summary>Begins heats.</summary>
/// <param name="Challenge">Address of the challenge.</param>
/// <param name="Teams">Keys of the teams; all of the class when left out.</param>
public sealed record BeginHeats(string? Challenge, IReadOnlyList<long>? Teams = null);

/// <summary>A lane as a judge wrote it.</summary>
/// <param name="Started">False where the team could not start.</param>
/// <param name="Value">Points, seconds or millimetres; none where it was not done in time, or stayed up to the end.</param>
/// <param name="Falls">How often something fell, 0 to 99.</param>
/// <param name="Touches">How often the team touched its machine, 0 to 99.</param>
public sealed record LaneRequest(bool? Started = null, double? Value = null, double? Falls = null, double? Touches = null)
{
    internal static LaneSheet? Sheet(LaneRequest? lane, string at)
    {
        if (lane is null)
            return null;
        var need = new Core.Quantities.Require();
        var falls = need.Whole(lane.Falls ?? 0, $"{at}.falls", 0, LaneSheet.MostCounted);
        var touches = need.Whole(lane.Touches ?? 0, $"{at}.touches", 0, LaneSheet.MostCounted);
        need.Done();
        return new(lane.Started ?? true, lane.Value, falls, touches);
    }
}

/// <summary>Scores a heat.</summary>
/// <param name="First">The team in the first lane, by its place in the list, from 0.</param>
/// <param name="Second">The team in the second lane.</param>
/// <param name="One">How the first lane came out.</param>
/// <param name="Other">How the second lane came out.</param>
public sealed record ScoreRequest(int? First, int? Second, LaneRequest? One, LaneRequest? Other);

/// <summary>Gives a re-run.</summary>
/// <param name="First">The team in the first lane.</param>
/// <param name="Second">The team in the second lane.</param>
/// <param name="Team">The team that asks for it.</param>
public sealed record RerunRequest(int? First, int? Second, int? Team);

/// <summary>Takes something back.</summary>
/// <param name="Of">Number of what is taken back.</param>
public sealed record UndoHeatRequest(long? Of);

/// <summary>A team withdraws, or is back.</summary>
/// <param name="Team">The team.</param>
/// <param name="Back">True where it is back.</param>
public sealed record WithdrawRequest(int? Team, bool? Back = null);

/// <summary>Enters a rig for a team.</summary>
/// <param name="Team">The team.</param>
/// <param name="Rig">Address of the rig; none to enter none.</param>
public sealed record EnterRequest(int? Team, string? Rig = null);

/// <summary>Lets the bench run all heats.</summary>
/// <param name="Job">A name by which it can be stopped.</param>
public sealed record SimulateHeats(string? Job = null);

/// <summary>Something was written down.</summary>
/// <param name="Say">What, in words.</param>
public sealed record HeatKept(string Say);
