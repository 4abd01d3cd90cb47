using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Logbook;

/// <summary>A mission of a match.</summary>
/// <param name="Name">Its name; each has another.</param>
/// <param name="Points">What it earns once, 0 or more.</param>
/// <param name="RunS">What a try takes, whole seconds, 1 or more: it must end within the limit.</param>
/// <param name="ResetS">What passes after a try before the next, whole seconds, 0 or more.</param>
/// <param name="Success">Share of tries that succeed, 0 to 1.</param>
/// <param name="Tries">Most tries, 1 or more; null for as many as fit.</param>
/// <param name="SuccessLow">The least that share may turn out to be; null where it is taken as it is.</param>
/// <param name="SuccessHigh">The most it may turn out to be.</param>
public sealed record MissionInput(
    string? Name,
    double? Points,
    double? RunS,
    double? ResetS,
    double? Success,
    double? Tries = null,
    double? SuccessLow = null,
    double? SuccessHigh = null
);

/// <summary>Input of the sum <c>match-plan</c>.</summary>
/// <param name="LimitS">How long the match is, whole seconds, 1 to 1 800.</param>
/// <param name="Missions">Its missions, 1 to 10.</param>
/// <param name="PenaltyPerTouch">What a failed try costs, for a hand touches then; 0 when left out.</param>
/// <param name="FixedOrder">True where missions are tried in the listed order: once a later one was tried, earlier ones are closed.</param>
/// <param name="Own">The team's own order, a name a try; null for none.</param>
public sealed record MatchPlanInput(
    double? LimitS,
    IReadOnlyList<MissionInput?>? Missions,
    double? PenaltyPerTouch = null,
    bool? FixedOrder = null,
    IReadOnlyList<string?>? Own = null
);

/// <summary>What to do where so much is done and so much time is left.</summary>
/// <param name="Done">Missions that are done, in the listed order.</param>
/// <param name="TriesLeft">Tries left, a mission each in the listed order; null for one that is done or may be tried without end.</param>
/// <param name="FromS">From so much time left, s.</param>
/// <param name="ToS">To so much, s.</param>
/// <param name="Next">The mission to try next; null to stop.</param>
/// <param name="Likelihood">How likely a match comes by, 0 to 1.</param>
public sealed record PolicyRow(
    IReadOnlyList<string> Done,
    IReadOnlyList<int?> TriesLeft,
    int FromS,
    int ToS,
    string? Next,
    double Likelihood
);

/// <summary>What the team's own order comes to.</summary>
/// <param name="ExpectedPoints">Points in the mean.</param>
/// <param name="SdPoints">Their standard deviation.</param>
public sealed record OwnOrder(double ExpectedPoints, double SdPoints);

/// <summary>What one mission would bring if it succeeded in 10 more of 100 tries.</summary>
/// <param name="Name">The mission.</param>
/// <param name="Gain">More points in the mean.</param>
public sealed record BetterMission(string Name, double Gain);

/// <summary>How far the answer hangs on a success that is not known well.</summary>
/// <param name="Name">The mission.</param>
/// <param name="Low">Best points in the mean if it succeeds as seldom as it may.</param>
/// <param name="High">The same if as often as it may.</param>
public sealed record HangsOn(string Name, double Low, double High);

/// <summary>Result of the sum <c>match-plan</c>.</summary>
/// <param name="ExpectedPoints">Points of the best plan in the mean.</param>
/// <param name="SdPoints">Their standard deviation.</param>
/// <param name="First">The mission to try first; null to stop at once.</param>
/// <param name="Order">What is tried one after the other if each try succeeds.</param>
/// <param name="Policy">What to do in each case that the best plan comes to; the likeliest 200, most time left first.</param>
/// <param name="PolicyTruncated">True where there are more.</param>
/// <param name="Own">The team's own order; null where none was given.</param>
/// <param name="OneMoreMinute">More points in the mean if the match were a minute longer.</param>
/// <param name="Better">What a better mission would bring, in the listed order.</param>
/// <param name="HangsOn">Missions whose success is not known well, in the listed order.</param>
public sealed record MatchPlanResult(
    double ExpectedPoints,
    double SdPoints,
    string? First,
    IReadOnlyList<string> Order,
    IReadOnlyList<PolicyRow> Policy,
    bool PolicyTruncated,
    OwnOrder? Own,
    double OneMoreMinute,
    IReadOnlyList<BetterMission> Better,
    IReadOnlyList<HangsOn> HangsOn
);

/// <summary>Which mission next, what to repeat and when to stop.</summary>
public static class MatchPlan
{
    /// <summary>Longest match, s.</summary>
    public const int MostS = 1800;

    /// <summary>Most missions.</summary>
    public const int MostMissions = 10;

    /// <summary>Most states: what is done and how many tries are left, times the time left.</summary>
    public const int MostStates = 2_000_000;

    /// <summary>Most tries that a team's own order names.</summary>
    public const int MostOwn = 200;

    private const int MostRows = 200,
        Minute = 60,
        MostTries = 1000;

    private const double MostPoints = 1e6;

    /// <summary>
    /// Computes the sum. Source: Bellman, "Dynamic programming" (1957): exact, over missions done, tries left and time left; stopping is
    /// always allowed. The variance of points is the sum of what each try adds to it (the points to come, looked at after each try, are a
    /// martingale).
    /// </summary>
    /// <exception cref="InputProblem">When a field is missing, not whole, out of range or contradictory, or there are over 2 million
    /// states.</exception>
    public static Answer<MatchPlanResult> Compute(MatchPlanInput input)
    {
        var (missions, limit, own) = Checked(input);
        var penalty = input.PenaltyPerTouch ?? 0;
        var graph = input.FixedOrder == true ? MissionGraph.InOrder(missions) : MissionGraph.Free(missions);
        // A short match with very many cases is refused too: the table is a minute longer than the match.
        if ((long)graph.Count * (limit + 1) > MostStates || (long)graph.Count * (limit + 1 + Minute) > 4L * MostStates)
            throw new InputProblem(
                "missions",
                $"{graph.Count:N0} cases of what is done and tried, times {limit + 1} seconds, is more than can be looked through "
                    + "(2 000 000): allow fewer tries, take missions out, or make the match shorter."
            );
        var worth = new MissionWorth(graph, missions, penalty, limit + Minute);
        worth.Solve();
        var best = worth.At(graph.Start, limit);
        double With(int mission, double success) => worth.With(mission, success, limit);
        var follow = new MissionFollow(graph, missions, worth, limit);
        var result = new MatchPlanResult(
            best,
            Math.Sqrt(follow.Variance),
            follow.Next(graph.Start, limit) is >= 0 and var first ? missions[first].Name : null,
            follow.Order(),
            follow.Rows(MostRows, out var more),
            more,
            own is null ? null : follow.Own(own, penalty),
            worth.At(graph.Start, limit + Minute) - best,
            [
                .. missions.Select(
                    (m, i) => new BetterMission(m.Name, m.Success >= 1 ? 0 : Math.Max(0, With(i, Math.Min(1, m.Success + 0.1)) - best))
                ),
            ],
            [
                .. missions
                    .Select((m, i) => (Mission: m, At: i))
                    .Where(m => m.Mission.Low < m.Mission.High)
                    .Select(m => new HangsOn(m.Mission.Name, With(m.At, m.Mission.Low), With(m.At, m.Mission.High))),
            ]
        );
        return new(result, Steps(missions, graph, worth, follow, limit, result), Cautions(missions, limit, result), null);
    }

    private static (Mission[] Missions, int LimitS, int[]? Own) Checked(MatchPlanInput input)
    {
        var need = new Require();
        var limit = need.Whole(input.LimitS, "limitS", 1, MostS);
        var given = input.Missions ?? [];
        need.That(given.Count is >= 1 and <= MostMissions, "missions", $"Give 1 to {MostMissions} missions.");
        var missions = new List<Mission>();
        var names = new Dictionary<string, int>(StringComparer.Ordinal);
        for (var i = 0; i < Math.Min(given.Count, MostMissions); i++)
        {
            var at = $"missions[{i}]";
            if (given[i] is not { } m)
            {
                need.That(false, at, "Give a mission.");
                continue;
            }
            var name = m.Name?.Trim() ?? "";
            need.That(name.Length is >= 1 and <= 60, $"{at}.name", "Give the mission a name of at most 60 characters.");
            var once = name == "" || names.TryAdd(name, missions.Count);
            need.That(once, $"{at}.name", $"“{name}” stands twice: give each another name.");
            var success = need.Number(m.Success, $"{at}.success", 0, 1);
            double low = need.Optional(m.SuccessLow, $"{at}.successLow", 0, 1) ?? success,
                high = need.Optional(m.SuccessHigh, $"{at}.successHigh", 0, 1) ?? success;
            if (need.Holds)
            {
                need.That(low <= success, $"{at}.successLow", $"Cannot be more than its success, {Show(success)}.");
                need.That(high >= success, $"{at}.successHigh", $"Cannot be less than its success, {Show(success)}.");
            }
            missions.Add(
                new(
                    name,
                    need.Number(m.Points, $"{at}.points", 0, MostPoints),
                    need.Whole(m.RunS, $"{at}.runS", 1, MostS),
                    need.Whole(m.ResetS, $"{at}.resetS", 0, MostS),
                    success,
                    m.Tries is null ? null : need.Whole(m.Tries, $"{at}.tries", 1, MostTries),
                    low,
                    high
                )
            );
        }
        need.Number(input.PenaltyPerTouch ?? 0, "penaltyPerTouch", 0, MostPoints);
        int[]? own = null;
        if (input.Own is { } order)
        {
            need.That(order.Count is >= 1 and <= MostOwn, "own", $"Name 1 to {MostOwn} tries.");
            own = new int[Math.Min(order.Count, MostOwn)];
            for (var i = 0; i < own.Length; i++)
                need.That(
                    names.TryGetValue(order[i]?.Trim() ?? "", out own[i]),
                    $"own[{i}]",
                    $"There is no mission “{order[i]}”. There are {List(names.Keys)}."
                );
        }
        need.Done();
        return ([.. missions], limit, own);
    }

    private static List<Step> Steps(
        Mission[] missions,
        MissionGraph graph,
        MissionWorth worth,
        MissionFollow follow,
        int limit,
        MatchPlanResult result
    )
    {
        var steps = new List<Step>();
        foreach (var action in graph.Of(graph.Start))
        {
            var m = missions[action.Mission];
            if (m.RunS > limit)
            {
                steps.Add(new($"{m.Name} first", $"takes {m.RunS} s: it does not fit", null, ""));
                continue;
            }
            var left = Math.Max(0, limit - m.TotalS);
            var (then, else_) = (worth.At(action.Done, left), worth.At(action.Failed, left));
            var lost = worth.Penalty == 0 ? Show(else_) : $"({Show(else_)} − {Show(worth.Penalty)})";
            steps.Add(
                new(
                    $"{m.Name} first",
                    $"{Show(m.Success)} × ({Show(m.Points)} + {Show(then)}) + {Show(1 - m.Success)} × {lost}, each with {left} s left",
                    worth.Try(action, limit),
                    "points"
                )
            );
        }
        steps.Add(
            new("The best of these", result.First is { } first ? $"{first} first" : "none is worth a try", result.ExpectedPoints, "points")
        );
        steps.Add(
            new(
                "How far points spread",
                "square root of the sum of success × failure × (what hangs on it)² over all tries",
                result.SdPoints,
                "points"
            )
        );
        steps.Add(
            new("One more minute", $"best points in {limit + Minute} s − {Show(result.ExpectedPoints)}", result.OneMoreMinute, "points")
        );
        if (result.Own is { } own)
            steps.Add(new("Your own order", "each name one try, as long as it fits", own.ExpectedPoints, "points"));
        return steps;
    }

    private static List<string> Cautions(Mission[] missions, int limit, MatchPlanResult result)
    {
        var said = new List<string>();
        foreach (var m in missions.Where(m => m.RunS > limit))
            said.Add($"{m.Name} takes {m.RunS} s and the match {limit} s: it never fits.");
        if (result.First is null)
            said.Add("Nothing is worth a try: what a failure costs is more than a success brings.");
        foreach (var hang in result.HangsOn.Where(h => h.High - h.Low > 0.1 * Math.Max(1, result.ExpectedPoints)))
            said.Add(
                $"How often {hang.Name} succeeds is not known well: the best plan comes to {Show(hang.Low, 3)} to "
                    + $"{Show(hang.High, 3)} points. Try it more often before the match."
            );
        return said;
    }
}
