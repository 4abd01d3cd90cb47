using Chiton.Core.Quantities;
using Chiton.Core.Rigs;

namespace Chiton.Core.Programs.Language;

/// <summary>Gives a thing another name everywhere: every sentence that speaks of it follows, and none that speaks of a namesake.</summary>
public static class Renames
{
    /// <summary>The rig with a device, mechanism, zone or position called otherwise: in its lists, wiring, supply, programs and
    /// walks.</summary>
    /// <param name="rig">The design.</param>
    /// <param name="what">What is renamed.</param>
    /// <param name="of">Of a zone the sensor, of a position the mechanism; null otherwise.</param>
    /// <param name="from">The name now.</param>
    /// <param name="to">The new name.</param>
    /// <exception cref="InputProblem">When there is nothing of that name, or the new one is taken or no name.</exception>
    public static RigDesign InRig(RigDesign rig, Renamed what, string? of, string from, string to)
    {
        var next = RigEdits.Rename(rig, what, of, from, to);
        string[] longer =
        [
            .. rig
                .Devices.Select(d => d.Name)
                .Concat(rig.Mechanisms.Select(m => m.Name))
                .Concat(rig.Sensors.SelectMany(s => s.Zones))
                .Concat(rig.Mechanisms.SelectMany(m => m.Positions))
                .Where(n => n != from && n.Split(' ').Length > from.Split(' ').Length)
                .Distinct(),
        ];
        // What could not be read is followed word by word; of a zone or position only where its owner is named.
        string Words(string text) => of is null || LineParser.Holds(text, of) ? LineParser.Renamed(text, from, to, longer) : text;
        // A program says the names of its own controller's devices without the controller's.
        ProgramNode InOne(ProgramNode program, int index)
        {
            string Inside(string name) => program.OwnNames.FirstOrDefault(o => o.Outside == name)?.Name ?? name;
            var now = Vocabulary.For(next, next.ProgramAt(index)).OwnNames.FirstOrDefault(o => o.Outside == to)?.Name ?? to;
            var before = Inside(from);
            var after = new InPrograms(rig, what, of is null ? null : Inside(of), before, now, Words).Map(program);
            if (after != program && Placing.Alike(rig, index).Skip(1).Any())
                throw new InputProblem(
                    "to",
                    $"“{before}” stands in {program.Name}, whose text is the same in {Placing.Alike(rig, index).Count()} places. "
                        + "Give the text of this place another name first, or keep the name."
                );
            return after;
        }
        return Each(rig, next, InOne, Words) with
        {
            Walks = rig
                .Walks.Select(w =>
                    w with
                    {
                        Steps = w.Steps.Select(s => s.Event is null ? s : s with { Event = Words(s.Event) }).ToSequence(),
                    }
                )
                .ToSequence(),
        };
    }

    /// <summary>The rig with a program that was renamed called by its new name by the others, and in the walks that were kept.</summary>
    public static RigDesign OfProgram(RigDesign rig, int index, string before, string after)
    {
        if (before == after || before == "" || after == "")
            return rig;
        string Words(string text) =>
            LineParser.Holds(text, "tell") || LineParser.Holds(text, "from") ? LineParser.Renamed(text, before, after, []) : text;
        var next = Each(rig, rig, (program, i) => i == index ? program : new OtherProgram(before, after, Words).Map(program), Words, index);
        return next with
        {
            Walks = rig
                .Walks.Select(w =>
                    (w.Program == before ? w with { Program = after } : w) with
                    {
                        Steps = w
                            .Steps.Select(s =>
                                s.Event is { } e && e.EndsWith(" from " + before, StringComparison.Ordinal)
                                    ? s with
                                    {
                                        Event = e[..^before.Length] + after,
                                    }
                                    : s
                            )
                            .ToSequence(),
                    }
                )
                .ToSequence(),
        };
    }

    /// <summary>A program with one of its states called otherwise: what goes there, asks for it, or remembers it, follows.</summary>
    /// <param name="program">The program.</param>
    /// <param name="line">The line of the state.</param>
    /// <param name="to">Its new name.</param>
    /// <param name="initial">Whether it is where its region begins; null as it was.</param>
    /// <param name="final">Whether it ends its region; null as it was.</param>
    /// <returns>The program; null when no state stands on that line.</returns>
    public static ProgramNode? OfState(ProgramNode program, int line, string to, bool? initial = null, bool? final = null)
    {
        var places = new Places(program);
        return places.At(line) is { } state
            ? new OneState(places, state, s => s with { Name = to, Initial = initial ?? s.Initial, Final = final ?? s.Final }, to).Map(
                program
            )
            : null;
    }

    /// <summary>A state as it stands again with names of its own: what goes from one state in it to another goes there in the
    /// copy.</summary>
    /// <param name="program">The program.</param>
    /// <param name="state">The state.</param>
    /// <param name="fresh">New names of it and of all states, regions and histories in it.</param>
    /// <returns>The copy, which is not where its region begins.</returns>
    public static StateNode Copied(ProgramNode program, StateNode state, IReadOnlyDictionary<string, string> fresh) =>
        new Copy(new Places(program), state, fresh).Of() with
        {
            Initial = false,
        };

    private static RigDesign Each(
        RigDesign rig,
        RigDesign next,
        Func<ProgramNode, int, ProgramNode> map,
        Func<string, string> words,
        int skip = -1
    )
    {
        return next with
        {
            Programs = rig
                .Programs.Select(
                    (p, i) =>
                    {
                        if (i == skip)
                            return p;
                        // A text that does not even begin as a program is no tree: it is followed word by word.
                        if (ScriptParser.NameOf(p.Script) is null)
                            return p with
                            {
                                Script = string.Join('\n', p.Script.Split('\n').Select(l => l.TrimStart().StartsWith('#') ? l : words(l))),
                            };
                        var before = ScriptParser.Parse(p.Script, Vocabulary.For(rig, p)).Program;
                        var after = map(before, i);
                        if (after == before)
                            return p;
                        return p with { Script = Printer.Print(after), Marks = Marks(p.Marks, before, after) };
                    }
                )
                .ToSequence(),
        };
    }

    /// <summary>Marks of numbers on the lines of a program that was mapped line by line.</summary>
    public static Sequence<NumberMark> Marks(Sequence<NumberMark> marks, ProgramNode before, ProgramNode after)
    {
        static IEnumerable<(string Owner, string Line)> Lines(ProgramNode p) =>
            p
                .Head.Select(h => ("", Printer.Plain(Printer.Pieces(h))))
                .Concat(p.AllStates.SelectMany(s => s.Lines.Select(l => (s.Name, Printer.Plain(Printer.Pieces(l))))));
        var now = new Dictionary<(string, string), (string Owner, string Line)>();
        foreach (var (old, fresh) in Lines(before).Zip(Lines(after)))
            now.TryAdd(old, fresh);
        return marks
            .Select(m => now.TryGetValue((m.Owner, m.Line), out var there) ? m with { Owner = there.Owner, Line = there.Line } : m)
            .ToSequence();
    }

    private sealed class InPrograms(RigDesign rig, Renamed what, string? of, string from, string to, Func<string, string> words) : NameMap
    {
        protected override string Sensor(string name) => what == Renamed.Device && name == from ? to : name;

        protected override string Device(string name) => what is Renamed.Device or Renamed.Mechanism && name == from ? to : name;

        protected override string Zone(string? sensor, string name) =>
            what == Renamed.Zone
            && name == from
            && (sensor == of || sensor is null && !rig.Sensors.Any(s => s.Name != of && s.Zones.Contains(from)))
                ? to
                : name;

        protected override string Position(string device, string name) =>
            what == Renamed.Position
            && name == from
            && rig.Mechanisms.FirstOrDefault(m => m.Name == of) is { } m
            && ProgramWalk.Means(m, device)
                ? to
                : name;

        protected override string Raw(string text) => words(text);
    }

    private sealed class OtherProgram(string before, string after, Func<string, string> words) : NameMap
    {
        protected override string Program(string name) => name == before ? after : name;

        protected override string Raw(string text) => words(text);
    }

    // Every state with where it stands, as the compiler finds them.
    private sealed class Places
    {
        private readonly List<(string Name, StateNode State, RegionNode Top, string[] Regions, int[] Path, bool History)> all = [];

        public Places(ProgramNode program)
        {
            var number = 0;
            foreach (var region in program.Regions.Concat(program.Routines.SelectMany(r => r.Regions)))
                Region(region, region, [], [number++]);

            void Region(RegionNode region, RegionNode top, string[] regions, int[] path)
            {
                foreach (var s in region.States)
                    State(s, top, [.. regions, region.Name], path);
            }
            void State(StateNode s, RegionNode top, string[] regions, int[] path)
            {
                int[] own = [.. path, number++];
                all.Add((s.Name, s, top, regions, own, false));
                foreach (var h in s.Histories)
                    all.Add((h.Name, s, top, regions, [.. own, number++], true));
                foreach (var inner in s.States)
                    State(inner, top, regions, own);
                foreach (var r in s.Regions)
                    Region(r, top, regions, [.. own, number++]);
            }
        }

        public StateNode? At(int line) => all.FirstOrDefault(p => !p.History && p.State.Span.Line == line).State;

        // The nearest of that name: the one whose common home with the source lies deepest, as the machine goes there.
        public bool GoesTo(StateNode from, string target, StateNode state) =>
            Goal(from, target) is { History: false } found && ReferenceEquals(found.State, state);

        public (StateNode? State, bool History) Goal(StateNode from, string target)
        {
            var own = all.First(p => !p.History && ReferenceEquals(p.State, from));
            var best = -1;
            var found = (State: (StateNode?)null, History: false);
            foreach (var p in all)
            {
                if (p.Name != target || !ReferenceEquals(p.Top, own.Top))
                    continue;
                var common = p.Path.Zip(own.Path).TakeWhile(x => x.First == x.Second).Count();
                if (common > best)
                    (best, found) = (common, (p.State, p.History));
            }
            return found;
        }

        public bool IsIn(string region, StateNode state) =>
            all.Any(p => !p.History && ReferenceEquals(p.State, state) && p.Regions.Contains(region));
    }

    private sealed class OneState(Places places, StateNode state, Func<StateNode, StateNode> change, string to) : NameMap
    {
        protected override string Target(string name) =>
            name == state.Name && Within is { } from && places.GoesTo(from, name, state) ? to : name;

        protected override (string Region, string State) Place(string region, string name) =>
            name == state.Name && places.IsIn(region, state) ? (region, to) : (region, name);

        protected override StateNode State(StateNode before, StateNode after) => ReferenceEquals(before, state) ? change(after) : after;
    }

    private sealed class Copy(Places places, StateNode state, IReadOnlyDictionary<string, string> fresh) : NameMap
    {
        private readonly HashSet<StateNode> own = new(state.WithInner, ReferenceEqualityComparer.Instance);

        public StateNode Of() => Map(state);

        protected override string Target(string name) =>
            Within is { } from && places.Goal(from, name).State is { } goal && own.Contains(goal) ? fresh[name] : name;

        protected override (string Region, string State) Place(string region, string name) =>
            own.Any(s => s.Name == name && places.IsIn(region, s))
                ? (fresh.GetValueOrDefault(region, region), fresh[name])
                : (region, name);

        protected override StateNode State(StateNode before, StateNode after) =>
            after with
            {
                Name = fresh[before.Name],
                Histories = after.Histories.Select(h => h with { Name = fresh[h.Name] }).ToSequence(),
                Regions = after.Regions.Select(r => r with { Name = fresh.GetValueOrDefault(r.Name, r.Name) }).ToSequence(),
            };
    }
}
