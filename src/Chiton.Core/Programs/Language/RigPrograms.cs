using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>One of the programs of a rig, read.</summary>
/// <param name="Index">Its place among them.</param>
/// <param name="Name">Its name.</param>
/// <param name="Place">The controller it is on; null on a host.</param>
/// <param name="OnHost">True on a host.</param>
/// <param name="Runs">True when it runs, false when it is only stored.</param>
/// <param name="Parsed">What its script says.</param>
public sealed record RigProgram(int Index, string Name, string? Place, bool OnHost, bool Runs, ParseResult Parsed);

/// <summary>The programs of a rig: where they are, which of them run, and how they change together.</summary>
public static class RigPrograms
{
    /// <summary>All programs, read.</summary>
    public static IReadOnlyList<RigProgram> Of(RigDesign rig)
    {
        var names = Placing.Names(rig);
        return
        [
            .. rig.Programs.Select(
                (p, i) =>
                    new RigProgram(
                        i,
                        names[i] ?? $"program {i + 1}",
                        rig.PlaceOf(p),
                        p.OnHost,
                        !p.Stored,
                        ScriptParser.Parse(p.Script, Vocabulary.For(rig, p))
                    )
            ),
        ];
    }

    /// <summary>What is odd about the programs as a whole, in sentences.</summary>
    public static IReadOnlyList<string> Problems(RigDesign rig)
    {
        var names = Placing.Names(rig);
        var all = rig.Programs.Select((p, i) => (Program: p, Name: names[i] ?? $"program {i + 1}")).ToArray();
        var said = new List<string>();
        foreach (var same in all.GroupBy(p => p.Name).Where(g => g.Count() > 1))
            said.Add(
                $"{Figures.Count(same.Count(), "program")} are named {same.Key}: a message to {same.Key} could mean any of them. Give "
                    + "each a name of its own."
            );
        var running = all.Where(p => !p.Program.Stored).ToArray();
        if (running.Any(p => p.Program.OnHost) && running.Any(p => !p.Program.OnHost))
            said.Add(
                $"{running.First(p => p.Program.OnHost).Name} commands the controllers from a host while "
                    + $"{string.Join(" and ", running.Where(p => !p.Program.OnHost).Select(p => p.Name))} run on them: both command "
                    + "the same motors. Store one or the other."
            );
        if (running.Length == 0 && all.Length > 0)
            said.Add("No program runs: all are stored.");
        return said;
    }

    /// <summary>Puts a program to run on a place; whatever ran there is stored. A host's program stores those of the controllers, and they
    /// it.</summary>
    public static RigDesign Run(RigDesign rig, int index)
    {
        var chosen = rig.ProgramAt(index);
        var place = rig.PlaceOf(chosen);
        return rig with
        {
            Programs = rig
                .Programs.Select(
                    (p, i) =>
                        i == index ? p with { Stored = false }
                        : p.OnHost != chosen.OnHost || rig.PlaceOf(p) == place ? p with { Stored = true }
                        : p
                )
                .ToSequence(),
        };
    }

    /// <summary>Puts the text of a program in one more place, where it runs unless something else does.</summary>
    /// <param name="rig">The rig.</param>
    /// <param name="index">One of the places where the text stands.</param>
    /// <param name="controller">The controller.</param>
    /// <param name="values">What this place gives to the text.</param>
    /// <exception cref="InputProblem">When there is no such controller, the text stands there already or is a host's.</exception>
    public static RigDesign PlaceAlso(RigDesign rig, int index, string? controller, Sequence<GivenValue> values)
    {
        var text = rig.ProgramAt(index);
        if (text.OnHost)
            throw new InputProblem("runsOn", "A program on a host commands all controllers already.");
        if (!rig.Controllers.Any(c => c.Name == controller && c.Role == NodeRole.Controller))
            throw new InputProblem("runsOn", $"There is no controller “{controller}”.");
        if (rig.Programs.Any(p => p.Script == text.Script && rig.PlaceOf(p) == controller))
            throw new InputProblem("runsOn", $"This text stands on {controller} already.");
        var taken = rig.Programs.Any(p => !p.Stored && (p.OnHost || rig.PlaceOf(p) == controller));
        var next = rig with { Programs = [.. rig.Programs, text with { RunsOn = controller, Stored = taken, Values = values }] };
        // From here on the others call each place by its controller's name.
        return
            Placing.Alike(rig, index).Skip(1).Any()
            || ScriptParser.NameOf(text.Script) is not { } name
            || rig.PlaceOf(text) is not { } place
            ? next
            : Renames.OfProgram(next, index, name, place);
    }

    /// <summary>Programs on a controller that was renamed or taken out follow it, or go to the first that is left.</summary>
    public static RigDesign Follow(RigDesign before, RigDesign after)
    {
        string? Now(string? place)
        {
            if (place is null || after.Controllers.Any(c => c.Name == place && c.Role == NodeRole.Controller))
                return place;
            var at = before.Controllers.Select((c, i) => (c, i)).Where(x => x.c.Name == place).Select(x => x.i).DefaultIfEmpty(-1).First();
            // The same place in a list as long as before, under a name that is new: it was renamed.
            return
                at >= 0
                && after.Controllers.Count == before.Controllers.Count
                && after.Controllers[at] is { Role: NodeRole.Controller } c
                && before.Controllers.All(b => b.Name != c.Name)
                ? c.Name
                : null;
        }
        var next = after with { Programs = before.Programs.Select(p => p with { RunsOn = Now(p.RunsOn) }).ToSequence() };
        var taken = new HashSet<string>();
        return next with
        {
            Programs = next
                .Programs.Select(p => p.Stored || taken.Add(p.OnHost ? "\0host" : next.PlaceOf(p) ?? "") ? p : p with { Stored = true })
                .ToSequence(),
        };
    }
}
