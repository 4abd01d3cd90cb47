using Chiton.Core.Quantities;

namespace Chiton.Core.Classroom;

/// <summary>What happened in a tournament.</summary>
public enum HeatEventKind
{
    /// <summary>A heat was scored.</summary>
    Scored,

    /// <summary>A team asked for a re-run of a heat, and got it: its result counts no more.</summary>
    Rerun,

    /// <summary>A team withdrew.</summary>
    Withdrew,

    /// <summary>A team that withdrew is back.</summary>
    Returned,

    /// <summary>Something was taken back.</summary>
    Undone,
}

/// <summary>Something that happened in a tournament. Nothing of it is ever changed: what is taken back keeps its trace.</summary>
/// <param name="Id">Number; rises with time.</param>
/// <param name="Kind">What.</param>
/// <param name="First">The team in the first lane, by its place in the list; −1 where no heat is meant.</param>
/// <param name="Second">The team in the second lane; −1 where no heat is meant.</param>
/// <param name="One">What was written of the first lane; null where nothing was.</param>
/// <param name="Other">What was written of the second lane.</param>
/// <param name="Team">The team that withdrew, is back or asked; −1 for none.</param>
/// <param name="Of">The number of what is taken back; 0 for nothing.</param>
public sealed record HeatEvent(
    long Id,
    HeatEventKind Kind,
    int First = -1,
    int Second = -1,
    LaneSheet? One = null,
    LaneSheet? Other = null,
    int Team = -1,
    long Of = 0
);

/// <summary>How a tournament stands.</summary>
/// <param name="Heats">All heats, round by round.</param>
/// <param name="Results">Results that count, by the heat.</param>
/// <param name="By">The number of the event that each result comes from, by the heat.</param>
/// <param name="Withdrawn">Teams that withdrew.</param>
/// <param name="Reruns">Re-runs that each team has had.</param>
/// <param name="Undone">Numbers of what was taken back.</param>
/// <param name="Next">The next heat; null where none is left.</param>
public sealed record HeatsNow(
    IReadOnlyList<Heat> Heats,
    IReadOnlyDictionary<Heat, HeatResult> Results,
    IReadOnlyDictionary<Heat, long> By,
    IReadOnlySet<int> Withdrawn,
    IReadOnlyList<int> Reruns,
    IReadOnlySet<long> Undone,
    Heat? Next
)
{
    /// <summary>The table.</summary>
    /// <param name="challenge">What is scored by, and how near is a draw.</param>
    public IReadOnlyList<HeatLine> Table(Challenge challenge) =>
        Classroom.Heats.Table(Reruns.Count, Results.Values, challenge.By, Withdrawn, challenge.Within);
}

/// <summary>What follows from what happened in a tournament.</summary>
public static class Tournament
{
    /// <summary>How it stands.</summary>
    /// <param name="challenge">The challenge.</param>
    /// <param name="limitS">How long a run lasts at most, s.</param>
    /// <param name="teams">How many teams, 2 to 16.</param>
    /// <param name="events">What happened, the first first.</param>
    public static HeatsNow Of(Challenge challenge, double limitS, int teams, IReadOnlyList<HeatEvent> events)
    {
        var heats = Heats.Schedule(teams);
        var undone = events.Where(e => e.Kind == HeatEventKind.Undone).Select(e => e.Of).ToHashSet();
        var results = new Dictionary<Heat, HeatResult>();
        var by = new Dictionary<Heat, long>();
        var withdrawn = new HashSet<int>();
        var reruns = new int[teams];
        foreach (var e in events)
        {
            if (undone.Contains(e.Id))
                continue;
            var heat = heats.FirstOrDefault(h => h.First == e.First && h.Second == e.Second);
            switch (e.Kind)
            {
                case HeatEventKind.Scored when heat is not null:
                    results[heat] = new(
                        heat,
                        ChallengeRules.Score(challenge, e.One!, limitS),
                        ChallengeRules.Score(challenge, e.Other!, limitS)
                    );
                    by[heat] = e.Id;
                    break;
                case HeatEventKind.Rerun when heat is not null:
                    results.Remove(heat);
                    by.Remove(heat);
                    reruns[e.Team]++;
                    break;
                case HeatEventKind.Withdrew:
                    withdrawn.Add(e.Team);
                    break;
                case HeatEventKind.Returned:
                    withdrawn.Remove(e.Team);
                    break;
            }
        }
        return new(
            heats,
            results,
            by,
            withdrawn,
            reruns,
            undone,
            heats.FirstOrDefault(h => !results.ContainsKey(h) && !withdrawn.Contains(h.First) && !withdrawn.Contains(h.Second))
        );
    }

    /// <summary>Checks what is to be added: whether it can happen as things stand.</summary>
    /// <param name="challenge">The challenge.</param>
    /// <param name="limitS">How long a run lasts at most, s.</param>
    /// <param name="names">Names of the teams.</param>
    /// <param name="events">What happened, the first first.</param>
    /// <param name="next">What is to be added; its number does not matter.</param>
    /// <exception cref="InputProblem">When it cannot, by field.</exception>
    public static void Check(
        Challenge challenge,
        double limitS,
        IReadOnlyList<string> names,
        IReadOnlyList<HeatEvent> events,
        HeatEvent next
    )
    {
        var now = Of(challenge, limitS, names.Count, events);
        var need = new Require();
        var heat = now.Heats.FirstOrDefault(h => h.First == next.First && h.Second == next.Second);
        switch (next.Kind)
        {
            case HeatEventKind.Scored:
                Heat(true);
                ChallengeRules.Check(need, challenge, next.One, "one", limitS);
                ChallengeRules.Check(need, challenge, next.Other, "other", limitS);
                break;
            case HeatEventKind.Rerun:
                Heat(false);
                need.That(next.Team == next.First || next.Team == next.Second, "team", "One of the two teams of the heat asks for it.");
                need.Done();
                need.That(
                    now.Reruns[next.Team] < challenge.Reruns,
                    "team",
                    challenge.Reruns == 0
                        ? "The rules know no re-run."
                        : $"{names[next.Team]} has had {Figures.Count(now.Reruns[next.Team], "re-run")}; the rules give "
                            + $"{challenge.Reruns}."
                );
                break;
            case HeatEventKind.Withdrew:
            case HeatEventKind.Returned:
                need.That(next.Team >= 0 && next.Team < names.Count, "team", "There is no such team in it.");
                need.Done();
                var gone = now.Withdrawn.Contains(next.Team);
                need.That(
                    gone == (next.Kind == HeatEventKind.Returned),
                    "team",
                    gone ? $"{names[next.Team]} has withdrawn already." : $"{names[next.Team]} has not withdrawn."
                );
                break;
            default:
                Undo();
                break;
        }
        need.Done();

        void Heat(bool free)
        {
            need.That(heat is not null, "heat", "There is no such heat.");
            need.Done();
            foreach (var team in new[] { heat!.First, heat.Second })
                need.That(!now.Withdrawn.Contains(team), "heat", $"{names[team]} has withdrawn.");
            need.Done();
            need.That(
                now.Results.ContainsKey(heat) != free,
                "heat",
                free
                    ? $"{names[heat.First]} against {names[heat.Second]} is scored already. Take that back first, or give a re-run."
                    : "It is not scored yet."
            );
            need.Done();
        }

        void Undo()
        {
            var those = events.Where(e => !now.Undone.Contains(e.Id) && e.Kind != HeatEventKind.Undone).ToArray();
            var what = those.FirstOrDefault(e => e.Id == next.Of);
            need.That(what is not null, "of", "There is nothing of that number to take back; it may be taken back already.");
            need.Done();
            // What came after it about the same heat or the same team rests on it.
            var team = what!.Kind is HeatEventKind.Withdrew or HeatEventKind.Returned;
            need.That(
                !those.Any(e =>
                    e.Id > what.Id
                    && (
                        team
                            ? e.Kind is HeatEventKind.Withdrew or HeatEventKind.Returned && e.Team == what.Team
                            : e.Kind is HeatEventKind.Scored or HeatEventKind.Rerun && e.First == what.First && e.Second == what.Second
                    )
                ),
                "of",
                "Something came after it: take that back first."
            );
        }
    }
}
