using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>What became of a sentence.</summary>
public enum ChangeKind
{
    /// <summary>It is new.</summary>
    Added,

    /// <summary>It is gone.</summary>
    TakenOut,

    /// <summary>It says something else.</summary>
    Changed,

    /// <summary>It stands at another place.</summary>
    Moved,
}

/// <summary>One difference between two programs.</summary>
/// <param name="Kind">What became of the sentence.</param>
/// <param name="Where">In which state or block, in words.</param>
/// <param name="Before">The sentence before; null when it is new.</param>
/// <param name="After">The sentence now; null when it is gone.</param>
/// <param name="Say">All of it in a sentence.</param>
public sealed record ProgramChange(ChangeKind Kind, string Where, string? Before, string? After, string Say);

/// <summary>A part of a program whose sentences are held against each other.</summary>
/// <param name="Name">What it is called in differences, as "state Rolling".</param>
/// <param name="Head">Its own line, as it is printed.</param>
/// <param name="Line">That line, from 1.</param>
/// <param name="Lines">Its sentences as they are printed, with their lines.</param>
internal sealed record ProgramBlock(string Name, string Head, int Line, IReadOnlyList<(string Text, int Line)> Lines);

/// <summary>Two revisions of a program, held against each other sentence by sentence.</summary>
public static class ProgramDifference
{
    /// <summary>Every difference between the programs of two rigs, and where they run.</summary>
    public static IReadOnlyList<ProgramChange> Between(RigDesign before, RigDesign after)
    {
        var (old, now) = (RigPrograms.Of(before), RigPrograms.Of(after));
        var several = old.Count > 1 || now.Count > 1;
        var changes = new List<ProgramChange>();
        string At(RigProgram p) => p.OnHost ? "the host" : p.Place ?? "the controller";
        foreach (var p in now)
        {
            // A program that was renamed is still the one at its place.
            var was =
                old.FirstOrDefault(o => o.Name == p.Name)
                ?? (p.Index < old.Count && now.All(n => n.Name != old[p.Index].Name) ? old[p.Index] : null);
            if (was is null)
            {
                changes.Add(new(ChangeKind.Added, p.Name, null, p.Name, $"The program {p.Name} is new, on {At(p)}."));
                continue;
            }
            foreach (var c in Between(was.Parsed.Program, p.Parsed.Program))
                changes.Add(several ? c with { Where = $"{p.Name}: {c.Where}", Say = $"{p.Name}: {c.Say}" } : c);
            if (At(was) != At(p))
                changes.Add(new(ChangeKind.Moved, p.Name, At(was), At(p), $"{p.Name} is on {At(p)} now; it was on {At(was)}."));
            if (was.Runs != p.Runs)
                changes.Add(
                    new(
                        ChangeKind.Changed,
                        p.Name,
                        null,
                        null,
                        p.Runs ? $"{p.Name} runs now; it was only stored." : $"{p.Name} is only stored now; it ran before."
                    )
                );
        }
        foreach (var o in old)
            if (now.All(n => n.Name != o.Name) && !(o.Index < now.Count && old.All(x => x.Name != now[o.Index].Name)))
                changes.Add(new(ChangeKind.TakenOut, o.Name, o.Name, null, $"The program {o.Name} was taken out."));
        if (before.MessageDelay != after.MessageDelay)
            changes.Add(
                new(
                    ChangeKind.Changed,
                    "messages",
                    null,
                    null,
                    after.MessageDelay is { } d
                        ? $"A message takes {Figures.Show(d.Value)} ms now."
                        : "How long a message takes is not said any more."
                )
            );
        return changes;
    }

    /// <summary>Every difference, in the order of the newer program.</summary>
    public static IReadOnlyList<ProgramChange> Between(ProgramNode before, ProgramNode after)
    {
        var changes = new List<ProgramChange>();
        var (old, now) = (Blocks(before), Blocks(after));
        foreach (var (name, head, _, lines) in now)
        {
            var match = old.FirstOrDefault(b => b.Name == name);
            if (match is null)
            {
                changes.Add(
                    new(
                        ChangeKind.Added,
                        name,
                        null,
                        head,
                        $"{Capital(name)} is new{(lines.Count == 0 ? "" : $", with {Figures.Count(lines.Count, "sentence")}")}."
                    )
                );
                foreach (var line in lines)
                    changes.Add(Made(ChangeKind.Added, name, null, line.Text));
                continue;
            }
            if (match.Head != head)
                changes.Add(Made(ChangeKind.Changed, name, match.Head, head));
            Lines(name, [.. match.Lines.Select(l => l.Text)], [.. lines.Select(l => l.Text)], changes);
        }
        foreach (var (name, head, _, lines) in old.Where(b => now.All(n => n.Name != b.Name)))
            changes.Add(
                new(
                    ChangeKind.TakenOut,
                    name,
                    head,
                    null,
                    $"{Capital(name)} is gone{(lines.Count == 0 ? "" : $", with {Figures.Count(lines.Count, "sentence")}")}."
                )
            );
        return changes;
    }

    /// <summary>The blocks of a program as differences name them: the head, states by their paths, regions and routines.</summary>
    internal static List<ProgramBlock> Blocks(ProgramNode program)
    {
        var blocks = new List<ProgramBlock>
        {
            new("the head", Printer.Head(program), 1, [.. program.Head.Select(h => (Printer.Plain(Printer.Pieces(h)), h.Span.Line))]),
        };
        void State(StateNode s, string path)
        {
            var here = path == "" ? s.Name : $"{path}.{s.Name}";
            blocks.Add(
                new(
                    $"state {here}",
                    Printer.Plain(Printer.Pieces(s)),
                    s.Span.Line,
                    [
                        .. s.Lines.Select(l => (Printer.Plain(Printer.Pieces(l)), l.Span.Line)),
                        .. s.Histories.Select(h => (Printer.Plain(Printer.Pieces(h)), h.Span.Line)),
                    ]
                )
            );
            foreach (var inner in s.States)
                State(inner, here);
            foreach (var region in s.Regions)
                Region(region, here);
        }
        void Region(RegionNode region, string path)
        {
            var here =
                region.Name == "" ? path
                : path == "" ? region.Name
                : $"{path}.{region.Name}";
            if (region.Name != "")
                blocks.Add(new($"region {here}", "region " + region.Name, region.Span.Line, []));
            foreach (var state in region.States)
                State(state, here);
        }
        foreach (var region in program.Regions)
            Region(region, "");
        foreach (var routine in program.Routines)
        {
            blocks.Add(new($"routine {routine.Name}", Printer.Plain(Printer.Pieces(routine)), routine.Span.Line, []));
            foreach (var region in routine.Regions)
                Region(region, routine.Name);
        }
        return blocks;
    }

    // The longest common run of sentences stays; what is left over on both sides at one place was changed.
    private static void Lines(string where, List<string> a, List<string> b, List<ProgramChange> changes)
    {
        var common = new int[a.Count + 1, b.Count + 1];
        for (var i = a.Count - 1; i >= 0; i--)
        for (var k = b.Count - 1; k >= 0; k--)
            common[i, k] = a[i] == b[k] ? common[i + 1, k + 1] + 1 : Math.Max(common[i + 1, k], common[i, k + 1]);
        List<string> gone = [],
            come = [];
        void Flush()
        {
            // A sentence that only changed its place says so once.
            for (var i = 0; i < Math.Min(gone.Count, come.Count); i++)
                changes.Add(Made(ChangeKind.Changed, where, gone[i], come[i]));
            foreach (var g in gone.Skip(come.Count))
                changes.Add(
                    Made(
                        b.Contains(g) && a.Count(x => x == g) <= b.Count(x => x == g) ? ChangeKind.Moved : ChangeKind.TakenOut,
                        where,
                        g,
                        null
                    )
                );
            foreach (var c in come.Skip(gone.Count))
                if (!(a.Contains(c) && b.Count(x => x == c) <= a.Count(x => x == c)))
                    changes.Add(Made(ChangeKind.Added, where, null, c));
            gone.Clear();
            come.Clear();
        }
        int at = 0,
            to = 0;
        while (at < a.Count || to < b.Count)
        {
            if (at < a.Count && to < b.Count && a[at] == b[to])
            {
                Flush();
                at++;
                to++;
            }
            else if (to < b.Count && (at == a.Count || common[at, to + 1] >= common[at + 1, to]))
                come.Add(b[to++]);
            else
                gone.Add(a[at++]);
        }
        Flush();
    }

    private static ProgramChange Made(ChangeKind kind, string where, string? before, string? after) =>
        new(
            kind,
            where,
            before,
            after,
            kind switch
            {
                ChangeKind.Added => $"In {where} “{after}” is new.",
                ChangeKind.TakenOut => $"In {where} “{before}” is gone.",
                ChangeKind.Moved => $"In {where} “{before}” stands at another place.",
                _ => $"In {where} “{before}” now reads “{after}”.",
            }
        );

    private static string Capital(string s) => s.Length == 0 ? s : char.ToUpperInvariant(s[0]) + s[1..];
}
