using Chiton.Core.Quantities;

namespace Chiton.Core.Logbook;

/// <summary>A mission as it was checked.</summary>
internal sealed record Mission(string Name, double Points, int RunS, int ResetS, double Success, int? Tries, double Low, double High)
{
    /// <summary>From the begin of a try to the begin of the next, s.</summary>
    public int TotalS => RunS + ResetS;
}

/// <summary>A try that may be made: which mission, and the cases it leads to.</summary>
internal readonly record struct MissionTry(int Mission, int Done, int Failed);

/// <summary>
/// The cases of what is done and how many tries are left. A try leads to a case with a lower number, or, failed and without a limit of
/// tries, to the same one.
/// </summary>
internal sealed class MissionGraph
{
    private readonly int[] offsets;
    private readonly MissionTry[] tries;

    private readonly Func<int, int?[]> left;

    private MissionGraph(List<int> offsets, List<MissionTry> tries, Func<int, int?[]> left)
    {
        (this.offsets, this.tries, this.left) = ([.. offsets], [.. tries], left);
        Count = offsets.Count - 1;
    }

    /// <summary>How many cases there are.</summary>
    public int Count { get; }

    /// <summary>The case at the start.</summary>
    public int Start => Count - 1;

    /// <summary>The tries of a case, in the listed order.</summary>
    public ReadOnlySpan<MissionTry> Of(int at) => tries.AsSpan(offsets[at], offsets[at + 1] - offsets[at]);

    /// <summary>Tries left, a mission each; null for one that is done, closed or free of a limit.</summary>
    public int?[] Left(int at) => left(at);

    // A digit a mission: 0 for done, then as many tries as are left, from 1 for none; without a limit 0 for done and 1 for open.
    private static int Digits(Mission m) => m.Tries is { } tries ? tries + 2 : 2;

    private static int Fresh(Mission m) => Digits(m) - 1;

    private static bool IsOpen(Mission m, int digit) => digit >= (m.Tries is null ? 1 : 2);

    private static int? LeftOf(Mission m, int digit) => m.Tries is null || digit == 0 ? null : digit - 1;

    /// <summary>Missions may be tried in any order.</summary>
    public static MissionGraph Free(Mission[] missions)
    {
        var places = new int[missions.Length];
        long count = 1;
        for (var i = 0; i < missions.Length; i++)
        {
            places[i] = (int)count;
            count *= Digits(missions[i]);
            if (count > MatchPlan.MostStates)
                throw new InputProblem(
                    "missions",
                    "That many tries of that many missions are more than can be looked through: allow fewer tries, or take missions out."
                );
        }
        List<int> offsets = [0];
        List<MissionTry> tries = [];
        for (var at = 0; at < count; at++)
        {
            for (var i = 0; i < missions.Length; i++)
            {
                var digit = at / places[i] % Digits(missions[i]);
                if (IsOpen(missions[i], digit))
                    tries.Add(new(i, at - digit * places[i], missions[i].Tries is null ? at : at - places[i]));
            }
            offsets.Add(tries.Count);
        }
        return new(offsets, tries, at => [.. missions.Select((m, i) => LeftOf(m, at / places[i] % Digits(m)))]);
    }

    /// <summary>Missions are tried in the listed order: one that was passed over or left is closed. A case is the mission that was tried
    /// last and its digit; the last case is the start.</summary>
    public static MissionGraph InOrder(Mission[] missions)
    {
        List<int> offsets = [0];
        List<MissionTry> tries = [];
        List<(int Mission, int Digit)> cases = [];
        var begin = new int[missions.Length];
        // The last mission first: what a try leads to must have a lower number.
        for (var i = missions.Length - 1; i >= -1; i--)
        {
            if (i >= 0)
                begin[i] = cases.Count;
            for (var digit = 0; digit < (i < 0 ? 1 : Digits(missions[i])); digit++)
            {
                if (i >= 0 && IsOpen(missions[i], digit))
                    tries.Add(new(i, begin[i], missions[i].Tries is null ? cases.Count : cases.Count - 1));
                for (var j = i + 1; j < missions.Length; j++)
                    tries.Add(new(j, begin[j], begin[j] + (missions[j].Tries is null ? Fresh(missions[j]) : Fresh(missions[j]) - 1)));
                cases.Add((i, digit));
                offsets.Add(tries.Count);
            }
        }
        return new(
            offsets,
            tries,
            at =>
                [
                    .. missions.Select(
                        (m, i) =>
                            i < cases[at].Mission ? null
                            : i == cases[at].Mission ? LeftOf(m, cases[at].Digit)
                            : m.Tries
                    ),
                ]
        );
    }
}
