using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using static Chiton.Core.Quantities.Figures;

namespace Chiton.Core.Checking;

/// <summary>Runs that fail, told where they did last what they did.</summary>
internal sealed class GoalMissed : RanCheck
{
    // Of a hundred runs so many may fail before it is more than advice.
    private const double Bearable = 0.05;

    /// <inheritdoc/>
    public override string Code => "goal-missed";

    /// <inheritdoc/>
    public override string Title => "Fails for no reason named here";

    /// <inheritdoc/>
    public override string Says =>
        "Runs of the bench fail: told at the sentence that most of them took last, with where they ended and what they have in "
        + "common. Where "
        + "another finding names why, it stands under that.";

    /// <inheritdoc/>
    public override Severity Worst => Severity.Stops;

    /// <inheritdoc/>
    public override IEnumerable<Finding> Find(CheckInput input)
    {
        foreach (var scene in Counting(input))
        {
            var failed = scene.Runs - scene.Passes;
            if (failed == 0)
                continue;
            // Alike in where they ended up: the sentence that they took last.
            var places = scene.Failures.GroupBy(f => (f.Program, f.Line)).OrderByDescending(g => g.Sum(f => f.Count)).ToArray();
            // Where every other program stood, in the run that stands for most of them.
            var top = places[0].MaxBy(f => f.Count)!;
            if (
                places[0].Key.Program != input.ExploredAs
                && top.Lasts.Count > input.ExploredAs
                && input.Walk.Lines.FirstOrDefault(l => l.Number == top.Lasts[input.ExploredAs]) is { Line: TransitionNode last } stood
                && places.All(p => p.Key != (input.ExploredAs, stood.Number))
            )
            {
                var came = Places.Target(input.Node, stood.State, last)?.Name ?? stood.State.Name;
                yield return At(
                    stood,
                    Severity.Advice,
                    $"Where runs fail, it came no further than {came}",
                    $"“{scene.Scene}”: {Of(failed, scene.Runs)} fail. In the one that stands for most of them this was the last "
                        + $"new sentence of "
                        + $"{input.Program.Name}."
                ) with
                {
                    Run = top.Run,
                    Device = came,
                };
            }
            foreach (var place in places.Where(p => p.Key.Program == input.ExploredAs))
            {
                var count = place.Sum(f => f.Count);
                // What one in a hundred does is told at the commonest place alone.
                if (count < 0.01 * scene.Runs && !ReferenceEquals(place, places[0]))
                    continue;
                var most = place.MaxBy(f => f.Count)!;
                var at = input.Walk.Lines.FirstOrDefault(l => l.Number == most.Line);
                var into = at?.Line is TransitionNode { } sentence ? Places.Target(input.Node, at.State, sentence) : null;
                // The commonest place stands for all that fails: many small ones are no smaller harm than a great one.
                var least = Least(ReferenceEquals(place, places[0]) ? failed : count, scene.Runs);
                var severity =
                    least <= Bearable ? Severity.Advice
                    : least > 0.5 ? Severity.Stops
                    : Severity.Risky;
                // Without any, it stands where it began.
                var began = at is null ? Began(input.Node, most.Rule) : null;
                var where =
                    into is not null && !ReferenceEquals(into, at!.State) ? $" in {into.Name}"
                    : at is not null ? $" in {at.State.Name}"
                    : began is not null ? $" in {began.Name}"
                    : "";
                var say =
                    $"“{scene.Scene}”: "
                    + $"{Of(failed, scene.Runs)} on made-up copies of this one fail, "
                    + $"{(count < failed ? $"{count} of them" : "all")} here. Most often "
                    + (
                        most.Rule == "" ? "the machine had to be stopped"
                        : most.IsNever ? $"“{most.Rule}” came about"
                        : $"“{most.Rule}” was missed"
                    )
                    + "."
                    + (most.Ended == "" ? "" : $" How it ended: {most.Ended}.")
                    + (
                        at is null
                            ? began is null
                                ? " No sentence was taken before."
                                : $" No sentence was taken before: it never left {began.Name}."
                            : $" The last{(most.IsNever ? "" : " new")} sentence: "
                                + $"“{Printer.Plain(Printer.Pieces((TransitionNode)at.Line))}”."
                    )
                    + (most.Common is { } common ? $" They have in common: {common}." : "")
                    + " Watch one, and see what it waits for.";
                var headline = $"{Of(count, scene.Runs)} fail{where}";
                yield return (
                    at is not null ? At(at, severity, headline, say)
                    : began is not null ? At(began, severity, headline, say)
                    : At(0, severity, headline, say)
                ) with
                {
                    Run = most.Run,
                    // What it is about is the state that it came to last; its sentence stands in the one before.
                    Device = into?.Name,
                };
            }
        }
    }

    // Where the region that a rule speaks of begins; the first region where it names none.
    private static StateNode? Began(ProgramNode program, string rule)
    {
        var state = program.Regions.Where(r => LineParser.Holds(rule, r.Name)).Concat(program.Regions).FirstOrDefault() is { } region
            ? First(region.States)
            : null;
        while (state is { States.Count: > 0 })
            state = First(state.States);
        return state;

        static StateNode? First(IReadOnlyList<StateNode> states) => states.FirstOrDefault(s => s.Initial) ?? states.FirstOrDefault();
    }

    /// <summary>What a share is at the least. Source: Wilson's interval, 95 %.</summary>
    internal static double Least(int some, int all)
    {
        const double z = 1.959964;
        var p = some / (double)all;
        var middle = p + z * z / (2 * all);
        var half = z * Math.Sqrt(p * (1 - p) / all + z * z / (4.0 * all * all));
        return (middle - half) / (1 + z * z / all);
    }
}
