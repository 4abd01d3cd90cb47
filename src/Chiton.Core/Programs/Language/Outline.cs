using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>What is done to a line, a state, a region or a routine of a program.</summary>
public enum OutlineAct
{
    /// <summary>The line says something else; nothing takes it out.</summary>
    Set,

    /// <summary>A line more below this one; below a state line, in that state.</summary>
    Add,

    /// <summary>A state more below this one and all that stands in it; with line 0 at the end of the last region.</summary>
    AddState,

    /// <summary>A state more inside this one, as its last.</summary>
    AddInside,

    /// <summary>A region more beside the others.</summary>
    Region,

    /// <summary>A region more inside this state.</summary>
    RegionInside,

    /// <summary>A routine more.</summary>
    Routine,

    /// <summary>Past the one above it.</summary>
    Up,

    /// <summary>Past the one below it.</summary>
    Down,

    /// <summary>Into the state above it.</summary>
    In,

    /// <summary>Out of the state it stands in, to follow it.</summary>
    Out,

    /// <summary>Once more below itself; a state with names of its own.</summary>
    Copy,

    /// <summary>Away, with its comments and all that stands in it.</summary>
    TakeOut,
}

/// <summary>An edit of a program by its tree.</summary>
/// <param name="Act">What is done.</param>
/// <param name="Line">The line it is done to, from 1; 0 where it is done to the program.</param>
/// <param name="Text">What the line says, for <see cref="OutlineAct.Set"/> and what is added; else null.</param>
public sealed record OutlineEdit(OutlineAct Act, int Line, string? Text = null);

/// <summary>A program after an edit.</summary>
/// <param name="Script">The text. It is in canonical form when it has no faults.</param>
/// <param name="Line">Where the cursor belongs: the line that was changed, added or moved, or the one before what was taken out.</param>
/// <param name="Program">What the text says.</param>
/// <param name="Diagnostics">What in it cannot be read.</param>
/// <param name="Marks">Where its numbers come from.</param>
public sealed record Outlined(
    string Script,
    int Line,
    ProgramNode Program,
    IReadOnlyList<Diagnostic> Diagnostics,
    Sequence<NumberMark> Marks
);

/// <summary>Edits of a program's outline. The tree says what stands where; whatever could not be read stays as typed.</summary>
public static class Outline
{
    /// <summary>Does an edit.</summary>
    /// <param name="script">The text as it stands.</param>
    /// <param name="marks">Where its numbers come from.</param>
    /// <param name="edit">What is done.</param>
    /// <param name="rig">The rig's names.</param>
    /// <param name="known">What the text was parsed to, where that is known already.</param>
    /// <exception cref="InputProblem">When nothing stands on that line, or that cannot be done to it.</exception>
    public static Outlined Apply(string script, Sequence<NumberMark> marks, OutlineEdit edit, Vocabulary rig, ParseResult? known = null)
    {
        var lines = ScriptParser.Split(script);
        if (edit.Line > 0 && edit.Line <= lines.Length && lines[edit.Line - 1].Trim() == "")
            throw new InputProblem("line", $"Line {edit.Line} is empty.");
        var read = known ?? ScriptParser.Parse(script, rig);
        var was = read.Program;
        // A sound text that is laid out otherwise is laid out as it will be kept: what stands in what is then to be seen in it.
        if (read.Diagnostics.Count == 0 && Printer.Print(was) is var clean && clean != script)
        {
            var again = ScriptParser.Parse(clean, rig);
            edit = edit.Line == 0 ? edit : edit with { Line = Same(was, lines, again.Program, clean, edit.Line) };
            (lines, was) = (ScriptParser.Split(clean), again.Program);
        }
        var work = new Work(was, lines);
        var line = work.Do(edit);
        var text = string.Join('\n', work.Lines);
        var parsed = ScriptParser.Parse(text, rig);
        // A near miss is understood where only one thing can be meant.
        if (
            edit.Act is OutlineAct.Set or OutlineAct.Add
            && line > 0
            && Indent(work.Lines[line - 1]) is { Length: > 0 } indent
            && parsed.Diagnostics.Any(d => d.Line == line)
            && Mending.Understood(work.Lines[line - 1].Trim(), script, rig) is { } meant
        )
        {
            work.Lines[line - 1] = indent + meant;
            text = string.Join('\n', work.Lines);
            parsed = ScriptParser.Parse(text, rig);
        }
        // A state that is called otherwise takes along all that speaks of it.
        if (
            edit.Act == OutlineAct.Set
            && was.AllStates.FirstOrDefault(s => s.Span.Line == edit.Line) is { } old
            && parsed.Program.AllStates.FirstOrDefault(s => s.Span.Line == line) is { } now
            && now.Name != old.Name
            && Renames.OfState(was, edit.Line, now.Name, now.Initial, now.Final) is { } renamed
        )
        {
            marks = Renames.Marks(marks, was, renamed);
            // Line by line, so that what the tree does not hold stays where it is.
            var (before, after) = (Printed(was), Printed(renamed));
            for (var i = 0; i < before.Count; i++)
                if (before[i].Line > 0 && before[i].Text != after[i].Text)
                    work.Lines[before[i].Line - 1] = Indent(work.Lines[before[i].Line - 1]) + after[i].Text;
            text = string.Join('\n', work.Lines);
            parsed = ScriptParser.Parse(text, rig);
        }
        var made = marks.Concat(work.Copied(marks)).ToSequence();
        if (parsed.Diagnostics.Count > 0)
            return new(text, line, parsed.Program, parsed.Diagnostics, Sheet.Keep(made.ToArray(), parsed.Program));
        var canonical = Printer.Print(parsed.Program);
        if (canonical == text)
            return new(text, line, parsed.Program, parsed.Diagnostics, Sheet.Keep(made.ToArray(), parsed.Program));
        var printed = ScriptParser.Parse(canonical, rig);
        return new(
            canonical,
            Same(parsed.Program, [.. work.Lines], printed.Program, canonical, line),
            printed.Program,
            printed.Diagnostics,
            Sheet.Keep(made.ToArray(), printed.Program)
        );
    }

    /// <summary>
    /// The text with a line as it is being typed, spaces and all: nothing is moved, renamed or set anew. To be diagnosed
    /// and completed, not kept.
    /// </summary>
    /// <returns>The text, the line that is typed, from 1, and how many blanks stand before what was typed.</returns>
    /// <exception cref="InputProblem">When nothing can be typed there.</exception>
    public static (string Script, int Line, int Indent) Typed(string script, OutlineEdit edit, ProgramNode program)
    {
        var work = new Work(program, ScriptParser.Split(script));
        var line =
            edit.Act == OutlineAct.Set
                ? work.On(edit.Line)
                : work.Do(edit with { Text = edit.Act is OutlineAct.AddState or OutlineAct.AddInside ? "state X" : "when" });
        var indent = Indent(work.Lines[line - 1]);
        work.Lines[line - 1] = indent + edit.Text;
        return (string.Join('\n', work.Lines), line, indent.Length);
    }

    /// <summary>Where a line of an earlier text stands in a later one: where it stood, or the only one that says the same; null when it
    /// is not there, or not to be told from another.</summary>
    public static int? Follow(string before, string after, int line)
    {
        if (line == 0)
            return 0;
        string[] old = before.Split('\n'),
            now = after.Split('\n');
        if (line > old.Length)
            return null;
        var said = old[line - 1];
        if (line <= now.Length && now[line - 1] == said)
            return line;
        var at = Array.IndexOf(now, said);
        return at >= 0 && Array.IndexOf(now, said, at + 1) < 0 ? at + 1 : null;
    }

    private static string Indent(string line) => line[..(line.Length - line.TrimStart().Length)];

    // Every sentence with its line, in the order of the tree.
    private static List<(int Line, string Text)> Printed(ProgramNode program)
    {
        var all = new List<(int, string)>();
        foreach (var item in new Standing(program, []).All)
            all.Add((item.Line, Sheet.Sentence(item.Node)));
        return all;
    }

    // The same sentence, or comment above one, in the same program printed otherwise.
    private static int Same(ProgramNode a, string[] from, ProgramNode b, string to, int line)
    {
        var comments = 0;
        while (line <= from.Length && from[line - 1].Trim() is var text && (text == "" || text[0] == '#'))
        {
            comments += text == "" ? 0 : 1;
            line++;
        }
        if (line == a.Span.Line)
            return Math.Max(1, b.Span.Line - comments);
        var (x, y) = (new Standing(a, from).All, new Standing(b, []).All);
        for (var i = 0; i < x.Count && i < y.Count; i++)
            if (x[i].Line == line)
                return Math.Max(1, y[i].Line - comments);
        return Math.Min(line, to.Split('\n').Length);
    }

    private sealed class Work(ProgramNode program, string[] texts)
    {
        private readonly Standing standing = new(program, texts);
        private StateNode? original,
            copy;

        public List<string> Lines { get; } = [.. texts];

        public int On(int line) =>
            line >= 1 && line <= Lines.Count
                ? line
                : throw new InputProblem("line", $"There is no line {line}; the program has {Lines.Count}.");

        public int Do(OutlineEdit edit) =>
            edit.Act switch
            {
                OutlineAct.Set => Set(On(edit.Line), Said(edit, true)),
                OutlineAct.Add => Add(On(edit.Line), Said(edit, false)),
                OutlineAct.AddState when edit.Line == 0 => AddLast(Said(edit, false)),
                OutlineAct.AddState => AddState(State(edit.Line), false, Said(edit, false)),
                OutlineAct.AddInside => AddState(State(edit.Line), true, Said(edit, false)),
                OutlineAct.Region => Region(),
                OutlineAct.RegionInside => RegionInside(State(edit.Line)),
                OutlineAct.Routine => Routine(),
                OutlineAct.Up => Past(Item(edit.Line), -1),
                OutlineAct.Down => Past(Item(edit.Line), 1),
                OutlineAct.In => In(State(edit.Line)),
                OutlineAct.Out => Out(State(edit.Line)),
                OutlineAct.Copy => Copy(Item(edit.Line)),
                OutlineAct.TakeOut => TakeOut(edit.Line),
                _ => throw new InputProblem("act", "There is no such edit."),
            };

        // Marks of the numbers in a copied state: what was measured there is measured here.
        public IEnumerable<NumberMark> Copied(Sequence<NumberMark> marks)
        {
            if (original is null || copy is null)
                yield break;
            foreach (var (a, b) in original.WithInner.Zip(copy.WithInner))
            foreach (var (x, y) in a.Lines.Zip(b.Lines))
            {
                var (said, says) = (Sheet.Sentence(x), Sheet.Sentence(y));
                foreach (var mark in marks)
                    if (mark.Owner == a.Name && mark.Line == said)
                        yield return mark with
                        {
                            Owner = b.Name,
                            Line = says,
                        };
            }
        }

        private static string Said(OutlineEdit edit, bool orNothing)
        {
            var text = edit.Text?.Trim() ?? throw new InputProblem("text", "Say what stands on the line.");
            if (text == "" && !orNothing)
                throw new InputProblem("text", "Say what stands on the line.");
            return text.Contains('\n') || text.Contains('\r') ? throw new InputProblem("text", "That is more than one line.") : text;
        }

        private StandingItem Item(int line) =>
            standing.At(On(line)) ?? throw new InputProblem("line", $"Line {line} is no sentence that can be moved, copied or taken out.");

        private StandingItem State(int line) =>
            Item(line) is { Node: StateNode } state ? state : throw new InputProblem("line", $"There is no state on line {line}.");

        private int Set(int line, string text)
        {
            if (text != "")
            {
                Lines[line - 1] = Indent(Lines[line - 1]) + text;
                return line;
            }
            if (line == program.Span.Line)
                throw new InputProblem("text", "A program begins with a line that names it.");
            if (standing.At(line) is { Node: StateNode or RoutineNode or RegionNode, Inner.Count: > 0 })
                throw new InputProblem("text", "Something stands in it. To take out all of it, choose “Take out”.");
            return TakeOut(line);
        }

        private int Add(int line, string text)
        {
            var above = Indent(Lines[line - 1]);
            Lines.Insert(line, above + (standing.At(line)?.Node is StateNode or RegionNode or RoutineNode ? "  " : "") + text);
            return line + 1;
        }

        private int AddState(StandingItem at, bool inside, string text)
        {
            if (inside && at.Node is StateNode { Final: true })
                throw new InputProblem("line", "A final state has nothing in it.");
            if (inside && at.Node is StateNode { Regions.Count: > 0 })
                throw new InputProblem("line", "Regions stand in this state: add the state to one of them.");
            // The first in its place is where it begins, said or not.
            var first = inside && at.Node is StateNode { States.Count: 0 };
            Lines.InsertRange(at.Last, ["", Indent(Lines[at.Line - 1]) + (inside ? "  " : "") + (first ? Beginning(text) : text)]);
            return at.Last + 2;
        }

        private int AddLast(string text)
        {
            var region = standing.All.LastOrDefault(i => i.Parent is null && i.Node is RegionNode);
            var states = region?.Inner;
            var indent = states is { Count: > 0 } ? Indent(Lines[states[0].Line - 1]) : "  ";
            var end = EndOfRegions();
            Lines.InsertRange(end, ["", indent + (states is { Count: > 0 } ? text : Beginning(text))]);
            return end + 2;
        }

        private static string Beginning(string text) =>
            text.Contains(',') || !text.StartsWith("state ", StringComparison.Ordinal) ? text : text + ", initial";

        // How many lines there are before the routines, or before the comments at the end.
        private int EndOfRegions() =>
            standing.All.Where(i => i.Parent is null && i.Node is not RoutineNode).Select(i => i.Last).Append(program.Span.Line).Max();

        private int Region()
        {
            var at = EndOfRegions();
            var name = program.Regions.Count > 0 ? FreeName("Second region") : "Main";
            Lines.InsertRange(at, ["", "region " + name, $"  state {FreeName("Start")}, initial"]);
            return at + 2;
        }

        private int Routine()
        {
            var at = standing.All.Select(i => i.Last).Append(program.Span.Line).Max();
            Lines.InsertRange(at, ["", "routine " + FreeName("Routine"), "  state Begin, initial", "", "  state Over, final"]);
            return at + 2;
        }

        private int RegionInside(StandingItem at)
        {
            var state = (StateNode)at.Node;
            if (state.States.Count > 0 || state.Final)
                throw new InputProblem(
                    "line",
                    state.Final ? "A final state has nothing in it." : "States stand in this state: a region would stand beside them."
                );
            var indent = Indent(Lines[at.Line - 1]) + "  ";
            var name = FreeName(state.Name + " side");
            Lines.InsertRange(at.Last, ["", indent + "region " + name, $"{indent}  state {FreeName("Start")}, initial"]);
            return at.Last + 2;
        }

        private int Past(StandingItem item, int by)
        {
            if (standing.Neighbour(item, by) is not { } other)
                throw new InputProblem("act", by < 0 ? "It is the first in its place already." : "It is the last in its place already.");
            var (upper, lower) = by < 0 ? (other, item) : (item, other);
            var (a, b, c) = (standing.First(upper) - 1, standing.First(lower) - 1, lower.Last);
            var (first, gap, second) = (Lines[a..upper.Last], Lines[upper.Last..b], Lines[b..c]);
            Lines.RemoveRange(a, c - a);
            Lines.InsertRange(a, [.. second, .. gap, .. first]);
            var comments = item.Line - standing.First(item);
            return (by < 0 ? a : a + second.Count + gap.Count) + comments + 1;
        }

        private int In(StandingItem item)
        {
            var state = (StateNode)item.Node;
            if (standing.Neighbour(item, -1) is not { } into)
                throw new InputProblem("act", "There is no state above it in this place to put it into.");
            var home = (StateNode)into.Node;
            if (home.Final)
                throw new InputProblem("act", "The state above it is final: nothing stands in a final state.");
            if (home.Regions.Count > 0)
                throw new InputProblem("act", "Regions stand in the state above it: put it into one of them by hand.");
            // Where it was the beginning itself, the other is now; the first in there is where that begins.
            if (state.Initial)
                Flag(into, true);
            Flag(item, home.States.Count == 0);
            Shift(item, Indent(Lines[into.Line - 1]).Length + 2 - Indent(Lines[item.Line - 1]).Length);
            return item.Line;
        }

        private int Out(StandingItem item)
        {
            var state = (StateNode)item.Node;
            if (item.Parent is not { Node: StateNode around } parent)
                throw new InputProblem("act", "It stands in no other state.");
            Flag(item, false);
            if (state.Initial && standing.Beside(item).FirstOrDefault(i => i != item) is { } next)
                Flag(next, true);
            Shift(item, Indent(Lines[parent.Line - 1]).Length - Indent(Lines[item.Line - 1]).Length);
            var (start, end) = (standing.First(item) - 1, item.Last);
            var taken = Lines[start..end];
            var rest = Lines[end..parent.Last];
            while (rest.Count > 0 && rest[0].Trim() == "")
                rest.RemoveAt(0);
            var from = start;
            while (from > 0 && Lines[from - 1].Trim() == "")
                from--;
            Lines.RemoveRange(from, parent.Last - from);
            List<string> kept = rest.Count > 0 ? ["", .. rest] : [];
            Lines.InsertRange(from, [.. kept, "", .. taken]);
            return from + kept.Count + 1 + (item.Line - standing.First(item)) + 1;
        }

        private int Copy(StandingItem item)
        {
            if (item.Node is not StateNode state)
            {
                if (item.Inner.Count > 0 || item.Node is RegionNode or RoutineNode)
                    throw new InputProblem("act", "Only lines and states can be copied.");
                Lines.Insert(item.Line, Lines[item.Line - 1]);
                return item.Line + 1;
            }
            var names = Names();
            var fresh = new Dictionary<string, string>();
            void Rename(string name)
            {
                if (name != "" && !fresh.ContainsKey(name))
                {
                    fresh[name] = Free(names, name);
                    names.Add(fresh[name]);
                }
            }
            foreach (var inner in state.WithInner)
            {
                Rename(inner.Name);
                foreach (var history in inner.Histories)
                    Rename(history.Name);
                foreach (var region in inner.Regions)
                    Rename(region.Name);
            }
            (original, copy) = (state, Renames.Copied(program, state, fresh));
            var indent = Indent(Lines[item.Line - 1]);
            string[] made = [.. Printer.Print(copy, indent.Length).TrimEnd('\n').Split('\n')];
            Lines.InsertRange(item.Last, ["", .. made]);
            return item.Last + 2 + state.Comments.Count;
        }

        private int TakeOut(int line)
        {
            if (standing.At(On(line)) is not { } item)
            {
                if (line == program.Span.Line)
                    throw new InputProblem("line", "A program begins with a line that names it.");
                Lines.RemoveAt(line - 1);
                return Math.Max(1, line - 1);
            }
            var before = standing.Neighbour(item, -1)?.Line ?? item.Parent?.Line ?? 0;
            // Where it was the beginning, the first that is left is.
            if (item.Node is StateNode { Initial: true } && standing.Beside(item).FirstOrDefault(i => i != item) is { } next)
                Flag(next, true);
            var start = item.Node is StateNode or RegionNode or RoutineNode ? standing.First(item) : item.Line;
            Lines.RemoveRange(start - 1, item.Last - start + 1);
            return Math.Max(1, before);
        }

        private void Flag(StandingItem item, bool initial) =>
            Lines[item.Line - 1] = Indent(Lines[item.Line - 1]) + Sheet.Sentence((StateNode)item.Node with { Initial = initial });

        private void Shift(StandingItem item, int by)
        {
            for (var i = standing.First(item) - 1; i < item.Last; i++)
                if (Lines[i].Trim() != "")
                    Lines[i] = by >= 0 ? new string(' ', by) + Lines[i] : Lines[i][Math.Min(-by, Indent(Lines[i]).Length)..];
        }

        private HashSet<string> Names()
        {
            var own = ScriptParser.Declare([.. Lines]);
            return [.. own.Variables, .. own.States, .. own.Regions, .. own.Routines];
        }

        private string FreeName(string stem) => Free(Names(), stem);

        private static string Free(HashSet<string> taken, string stem)
        {
            if (!taken.Contains(stem))
                return stem;
            var root = stem.TrimEnd("0123456789".ToCharArray());
            root = root.EndsWith(' ') ? root.TrimEnd() : stem;
            var n = 2;
            while (taken.Contains($"{root} {n}"))
                n++;
            return $"{root} {n}";
        }
    }
}
