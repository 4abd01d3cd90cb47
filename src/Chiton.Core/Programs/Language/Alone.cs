using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

/// <summary>A part of a program to be run by itself.</summary>
public static class Alone
{
    /// <summary>What can be run alone: states as Region.State, nested ones with dots, then routines by name.</summary>
    public static IReadOnlyList<string> Parts(ProgramNode program)
    {
        var parts = new List<string>();
        void State(StateNode s, string path)
        {
            var here = $"{path}.{s.Name}";
            parts.Add(here);
            foreach (var inner in s.States)
                State(inner, here);
            foreach (var region in s.Regions)
            foreach (var inner in region.States)
                State(inner, $"{here}.{region.Name}");
        }
        foreach (var region in program.Regions)
        foreach (var state in region.States)
            State(state, region.Name);
        parts.AddRange(program.Routines.Select(r => r.Name));
        return parts;
    }

    /// <summary>The program that begins with one of its parts: a state becomes initial in its region, a routine becomes the
    /// program.</summary>
    /// <param name="program">The program.</param>
    /// <param name="part">One of <see cref="Parts"/>.</param>
    /// <exception cref="InputProblem">When there is no such part.</exception>
    public static ProgramNode Of(ProgramNode program, string part)
    {
        if (program.Routines.FirstOrDefault(r => r.Name == part) is { } routine)
            return program with
            {
                // Its parameters are variables that begin at nothing.
                Head = program
                    .Head.Where(h => h is VarNode or ConstNode)
                    .Concat(routine.Parameters.Select(HeadNode (p) => new VarNode([], p, new LiteralNode("0", ""))))
                    .ToSequence(),
                Regions = routine.Regions.Select(r => r.Name == "" ? r with { Name = routine.Name } : r).ToSequence(),
            };
        if (!Parts(program).Contains(part))
            throw new InputProblem(
                "from",
                $"There is no state or routine “{part}”. "
                    + $"{(NearMiss.Find(part, Parts(program)) is { } near ? $"Did you mean “{near}”?" : "")}".TrimEnd()
            );
        return program with
        {
            Regions = program
                .Regions.Select(r =>
                    part.StartsWith(r.Name + ".", StringComparison.Ordinal)
                        ? r with
                        {
                            States = Begin(r.States, part[(r.Name.Length + 1)..]),
                        }
                        : r
                )
                .ToSequence(),
        };
    }

    private static Sequence<StateNode> Begin(Sequence<StateNode> states, string path)
    {
        // The longest name that fits is the one: names have no dots in them.
        var on = states.FirstOrDefault(s => path == s.Name || path.StartsWith(s.Name + ".", StringComparison.Ordinal));
        if (on is null)
            return states;
        var rest = path.Length > on.Name.Length ? path[(on.Name.Length + 1)..] : "";
        return states
            .Select(s =>
                s != on
                    ? s with
                    {
                        Initial = false,
                    }
                    : s with
                    {
                        Initial = true,
                        States = rest == "" ? s.States : Begin(s.States, rest),
                        Regions =
                            rest == ""
                                ? s.Regions
                                : s
                                    .Regions.Select(r =>
                                        rest.StartsWith(r.Name + ".", StringComparison.Ordinal)
                                            ? r with
                                            {
                                                States = Begin(r.States, rest[(r.Name.Length + 1)..]),
                                            }
                                            : r
                                    )
                                    .ToSequence(),
                    }
            )
            .ToSequence();
    }
}
