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
            return RenamedTo(before, after, place);
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

    // The same place in a list as long as before, under a name that is new: it was renamed.
    private static string? RenamedTo(RigDesign before, RigDesign after, string controller)
    {
        var at = before.Controllers.Select((c, i) => (c, i)).Where(x => x.c.Name == controller).Select(x => x.i).DefaultIfEmpty(-1).First();
        return
            at >= 0
            && after.Controllers.Count == before.Controllers.Count
            && after.Controllers[at] is { Role: NodeRole.Controller } c
            && before.Controllers.All(b => b.Name != c.Name)
            ? c.Name
            : null;
    }

    /// <summary>What is called after a controller that was renamed is renamed with it: its devices that are told apart by it, and what
    /// others tell its place of a text. Programs must have followed already.</summary>
    /// <param name="before">The design before the edit.</param>
    /// <param name="after">The edited design.</param>
    /// <returns>The design, and each device and mechanism that has another name now, for what copies know of them.</returns>
    /// <exception cref="InputProblem">When such a name is taken.</exception>
    public static (RigDesign Design, IReadOnlyList<(string From, string To)> Names) FollowNames(RigDesign before, RigDesign after)
    {
        var names = new List<(string, string)>();
        foreach (var controller in before.Controllers.Select(c => c.Name))
        {
            if (after.Controllers.Any(c => c.Name == controller) || RenamedTo(before, after, controller) is not { } now)
                continue;
            var own = Placing.OwnNames(after, controller);
            foreach (var (name, from) in own)
            {
                var to = Placing.Outside(now, name);
                // A mechanism may be called like its motor.
                if (after.Find(from) is not null)
                    after = Renames.InRig(after, Renamed.Device, null, from, to);
                if (after.Mechanisms.Any(m => m.Name == from))
                    after = Renames.InRig(after, Renamed.Mechanism, null, from, to);
                names.Add((from, to));
            }
            for (var i = 0; i < before.Programs.Count && i < after.Programs.Count; i++)
                if (Placing.Names(before)[i] == controller && ScriptParser.NameOf(before.Programs[i].Script) != controller)
                    after = Renames.OfProgram(after, i, controller, now);
        }
        return (after, names);
    }
}
