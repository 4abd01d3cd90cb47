using Chiton.Core.Programs.Language;
using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Simulation.Scenes;

/// <summary>Reads scenes. It goes on after a fault and reports every one.</summary>
public static class SceneParser
{
    /// <summary>Most characters of a scene.</summary>
    public const int MostCharacters = 100_000;

    /// <summary>Most lines of a scene.</summary>
    public const int MostLines = 2_000;

    /// <summary>Reads a scene for a rig.</summary>
    /// <param name="text">The text.</param>
    /// <param name="rig">The rig.</param>
    public static SceneResult Parse(string text, RigDesign rig) => Parse(text, Names(rig));

    internal static SceneNames Names(RigDesign rig)
    {
        Declared own = new(new(), new(), new(), new());
        foreach (var program in RigPrograms.Of(rig).Where(p => p.Runs).Select(p => p.Parsed.Program))
        {
            foreach (var region in program.Regions)
                own.Regions.Add(region.Name);
            foreach (var inside in program.AllStates.SelectMany(s => s.Regions))
                own.Regions.Add(inside.Name);
            foreach (var state in program.AllStates)
                own.States.Add(state.Name);
            foreach (var head in program.Head)
                if (head is VarNode { Name: var v })
                    own.Variables.Add(v);
                else if (head is ConstNode { Name: var c })
                    own.Variables.Add(c);
        }
        return new(Vocabulary.Of(rig) with { Places = [] }, own);
    }

    internal static SceneResult Parse(string text, SceneNames names)
    {
        var diagnostics = new List<Diagnostic>();
        var lines = new List<SceneLine>();
        List<string> comments = [],
            head = [];
        string? name = null;
        var rows = text.Replace("\r", "", StringComparison.Ordinal).Split('\n');
        for (var i = 0; i < rows.Length; i++)
        {
            var row = rows[i].Trim();
            if (row == "")
                continue;
            if (i >= MostLines || text.Length > MostCharacters)
            {
                diagnostics.Add(new(i + 1, 1, 1, "", "", $"A scene has at most {MostLines} lines and {MostCharacters} characters.", null));
                break;
            }
            if (row[0] == '#')
            {
                comments.Add(row);
                continue;
            }
            var (line, fault) = One(row, i + 1, names);
            if (fault is not null)
                diagnostics.Add(fault);
            if (line.Key == "scene" && name is null && lines.Count == 0)
            {
                name = line.Name("name");
                head = comments;
                comments = [];
                continue;
            }
            if (line.Key == "scene")
                diagnostics.Add(new(i + 1, 1, row.Length, row, "", "A scene has one name: take this line away.", null));
            lines.Add(line with { Comments = comments.ToSequence() });
            comments = [];
        }
        if (name is null)
            diagnostics.Insert(
                0,
                new(1, 1, 1, "", "", "Begin with the scene's name, as in “scene As in the shed”.", "scene As in the shed")
            );
        var scene = new SceneNode(name ?? "Scene", lines, head.ToSequence(), comments.ToSequence());
        if (diagnostics.Count == 0)
            diagnostics.AddRange(SceneRules.Check(scene, names));
        return new(scene, [.. diagnostics.OrderBy(d => d.Line)]);
    }

    // Sentences whose first word stands there, then those that begin with a name.
    internal static IEnumerable<SceneForm> Candidates(string row)
    {
        var first = row.Split(' ', ',', ':')[0];
        foreach (var form in SceneForms.All)
            if (form.First.Split(' ')[0] == first)
                yield return form;
        foreach (var form in SceneForms.All)
            if (form.First == "")
                yield return form;
    }

    internal static (SceneLine Line, Diagnostic? Fault) One(string row, int number, SceneNames names)
    {
        SceneLine Broken() => new([], "", new Dictionary<string, object>(), new HashSet<int>(), new()) { Line = number, Raw = row };
        SceneMatcher matcher;
        try
        {
            matcher = new(row, number, names);
        }
        catch (LineFault fault)
        {
            return (Broken(), fault.At(number));
        }
        if (matcher.Read(Candidates(row)) is { } line)
            return (line, null);
        // Read as a sentence that begins with these words it is told where it goes wrong; any words might begin one with a name.
        SceneForm[] begun = [.. Candidates(row).Where(f => f.First != "")];
        if (begun.Length > 0)
        {
            var own = new SceneMatcher(row, number, names);
            own.Read(begun);
            if (own.Far > begun.Min(f => f.First.Split(' ').Length))
                matcher = own;
        }
        if (matcher.Inner is { } inner && inner.At(number) is var deep && deep.Column > matcher.Tokens[matcher.Far].Start)
            return (Broken(), deep);
        return (Broken(), Unfit(matcher, row, number));
    }

    private static Diagnostic Unfit(SceneMatcher matcher, string row, int number)
    {
        var at = matcher.Far;
        var token = matcher.Tokens[at];
        var found = token.Kind == TokenKind.End ? "the end of the line" : token.Text;
        var near = SceneForms
            .All.Where(f => f.First != "" && row.StartsWith(f.First.Split(' ')[0], StringComparison.Ordinal))
            .Select(f => f.Example)
            .Take(3)
            .ToArray();
        var word = row.Split(' ', ',', ':')[0];
        string[] firsts = [.. SceneForms.All.Where(f => f.First != "").Select(f => f.First.Split(' ')[0]).Distinct()];
        var guess = firsts.Contains(word) ? null : NearMiss.Find(word, firsts);
        if (at == 0 || guess is not null)
            return new(
                number,
                1,
                Math.Max(1, word.Length),
                word,
                "",
                $"No sentence of a scene begins with “{word}”.{(guess is null ? "" : $" Did you mean “{guess}”?")}",
                guess
            );
        string[] fit = [.. matcher.Wanted.Select(w => w.Literal ? $"“{w.Text}”" : w.Text).Take(5)];
        var before = row[..Math.Min(row.Length, token.Start)].TrimEnd();
        return new(
            number,
            token.Start + 1,
            Math.Max(1, token.Length),
            found,
            LineParser.Or(fit),
            (
                token.Kind == TokenKind.End
                    ? $"After “{before}” comes {LineParser.Or(fit)}."
                    : $"After “{before}” I cannot read “{found}”; {LineParser.Or(fit)} would fit."
            ) + (near.Length > 0 ? $" For instance: {near[0]}" : ""),
            null
        );
    }
}
