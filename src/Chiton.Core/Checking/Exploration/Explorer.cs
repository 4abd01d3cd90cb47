using System.Numerics;
using System.Runtime.InteropServices;
using Chiton.Core.Programs.Engine;
using Chiton.Core.Programs.Language;
using Chiton.Core.Rigs;

namespace Chiton.Core.Checking;

/// <summary>What is looked for while programs are explored.</summary>
internal enum SoughtKind
{
    /// <summary>A condition holds that must never.</summary>
    Never,

    /// <summary>Two regions command one device.</summary>
    Clash,
}

/// <summary>Something found on the way.</summary>
/// <param name="Kind">What.</param>
/// <param name="Program">In which of the explored programs.</param>
/// <param name="What">Which rule or clash.</param>
internal readonly record struct Sought(SoughtKind Kind, int Program, int What);

/// <summary>
/// Looks at everything that may ever happen to the programs of a rig together: every sensor may see anything at any moment,
/// times run out in any order but those begun in one step, and messages arrive in the order in which they were sent.
/// Breadth first, so that what it finds it finds by the fewest events.
/// </summary>
public sealed partial class Explorer
{
    /// <summary>Most messages on their way at once.</summary>
    public const int MostOnTheWay = 4;

    /// <summary>Most programs that are explored together.</summary>
    public const int MostPrograms = 8;

    /// <summary>States that are looked at after an edit, while somebody waits.</summary>
    public const long StatesAfterEdit = 40_000;

    /// <summary>Steps that the engine is asked for then.</summary>
    public const long AskedAfterEdit = 10_000;

    /// <summary>Bytes that all of it may take.</summary>
    public const long MostBytes = 1L << 30;

    private const int IdBits = 22,
        MessageBits = 12;

    // How many ways to the same thing are kept, should the shortest not be possible.
    private const int MostHits = 12;

    private readonly LocalSteps[] programs;
    private readonly string[] names;
    private readonly long delayMicros;
    private readonly List<Message> messages = [new(-1, -1, "", "")];
    private readonly Dictionary<Message, int> messageNumbers = [];
    private readonly List<int[]> lists =
    [
        [],
    ];
    private readonly Dictionary<string, int> listNumbers = [];
    private readonly (string Name, Stimulus[] Of)[] shared;
    private readonly bool[][] ready;

    // By program and state: which stimuli change it, and which in several ways.
    private readonly ulong[][] changes;
    private readonly int sharedWords;
    private readonly ulong[] nevers;
    private readonly StateSet set;
    private readonly Worker[] workers;
    private readonly int[] chunk = new int[ChunkStates];
    private readonly Dictionary<Sought, List<(int From, int By, int To)>> hits = [];

    // Of each shard the next state to look at, and where the states of this depth end.
    private readonly int[] next = new int[StateSet.Shards],
        levelEnd = new int[StateSet.Shards];

    // Where the states of each depth end, by shard.
    private readonly List<int[]> levels = [];
    private readonly string? cannot;

    /// <summary>Steps from one state to another that were looked at.</summary>
    public long Steps { get; private set; }

    /// <summary>Different states so far.</summary>
    public long States => set.Count;

    /// <summary>The most events that lie between the start and a state that was looked at.</summary>
    public int Depth { get; private set; }

    /// <summary>True once every state was looked at and nothing was left out.</summary>
    public bool IsComplete => cannot is null && IsThrough && set.Count > 0 && Bound is null;

    /// <summary>True when going on would find more states.</summary>
    public bool MayGoOn => cannot is null && !IsThrough && Bytes < MostBytes;

    private bool IsThrough => next[0] == set[0].Count && next[1] == set[1].Count;

    /// <summary>What was left out, in words; null where nothing was.</summary>
    public string? Bound { get; private set; }

    /// <summary>Bytes that all of it takes.</summary>
    public long Bytes => set.Bytes + programs.Sum(p => p.Bytes) + workers.Sum(w => w.Bytes);

    /// <summary>Why nothing can be explored; null where it can.</summary>
    public string? Cannot => cannot;

    /// <summary>Active states of all programs, as Program.Region.State joined by plus signs, each with the fewest events after which
    /// they are active together.</summary>
    internal IReadOnlyDictionary<string, int> Reached()
    {
        var found = new Dictionary<string, int>();
        var told = programs.Select(_ => new Dictionary<int, string>()).ToArray();
        var ids = new int[programs.Length];
        for (var shard = 0; shard < StateSet.Shards; shard++)
        for (var (place, depth) = (0, 0); place < set[shard].Count; place++)
        {
            while (depth < levels.Count && place >= levels[depth][shard])
                depth++;
            Unpack(StateSet.NumberOf(shard, place), ids);
            var text = string.Join(
                '+',
                programs.Select(
                    (p, i) =>
                        told[i].TryGetValue(ids[i], out var known)
                            ? known
                            : told[i][ids[i]] = string.Join('+', p.Places(ids[i]).Select(s => $"{names[i]}.{s}"))
                )
            );
            found[text] = Math.Min(depth, found.GetValueOrDefault(text, int.MaxValue));
        }
        return found;
    }

    /// <summary>Steps that the engine was asked for; the rest was known.</summary>
    public long Asked => programs.Sum(p => p.Asked);

    /// <summary>Makes ready.</summary>
    /// <param name="programs">The programs that run, in the rig's order.</param>
    /// <param name="delayMicros">How long a message takes, µs.</param>
    /// <param name="withoutTimes">For showing that a merge too many is noticed: which of several times comes first is forgotten.</param>
    internal Explorer(IReadOnlyList<NetworkProgram> programs, long delayMicros, bool withoutTimes = false)
    {
        (names, this.delayMicros) = ([.. programs.Select(p => p.Name)], delayMicros);
        if (programs.Count > MostPrograms)
            cannot = $"More than {MostPrograms} programs run together.";
        var n = programs.Count;
        this.programs = [.. programs.Select((p, i) => new LocalSteps(p.Script, (m, s) => NumberOf(i, m, s), ListOf, withoutTimes))];
        shared = SharedOf(this.programs, names);
        foreach (var p in this.programs)
            p.SharedStimuli = shared.Length;
        sharedWords = (shared.Length + 63) / 64;
        changes = [.. this.programs.Select(_ => new ulong[256 * Math.Max(1, sharedWords)])];
        ready = [.. this.programs.Select(_ => new bool[256])];
        nevers = [.. programs.Select(p => NeversOf(p.Script))];
        if (programs.Any(p => p.Script.Program.Head.OfType<RuleNode>().Skip(64).Any(IsExplorable)))
            Bound = "Only the first 64 goals and nevers of a program are looked at.";
        set = new((n * IdBits + 3 + MostOnTheWay * MessageBits + 63) / 64);
        workers = [new(this), new(this)];
    }

    /// <summary>A rule that can be looked at here: a condition of the programs alone, that must hold at no moment.</summary>
    internal static bool IsExplorable(RuleNode rule) =>
        rule is { IsGoal: false, Condition: ConditionKind.Holds, Time: null, OnceFor: null } && rule.Clock == default;

    private static ulong NeversOf(CompiledScript script)
    {
        ulong found = 0;
        var rules = script.Program.Head.OfType<RuleNode>().ToArray();
        for (var i = 0; i < Math.Min(64, rules.Length); i++)
            if (script.Rules[i] is not null && IsExplorable(rules[i]))
                found |= 1UL << i;
        return found;
    }

    /// <summary>Looks at more.</summary>
    /// <param name="moreStates">States to look at in this call.</param>
    /// <param name="moreAsked">Steps that the engine may be asked for in this call.</param>
    /// <param name="cancel">Stops it: what was found so far stays.</param>
    /// <param name="told">Told now and then how many states there are.</param>
    public void Run(long moreStates, long moreAsked, CancellationToken cancel = default, Action<long>? told = null)
    {
        if (cannot is not null)
            return;
        var asked = moreAsked > long.MaxValue - Asked ? long.MaxValue : Asked + moreAsked;
        if (set.Count == 0)
            Begin();
        for (long looked = 0; !IsThrough && looked < moreStates && Asked <= asked; )
        {
            if (cancel.IsCancellationRequested || Bytes >= MostBytes)
                break;
            told?.Invoke(set.Count);
            if (next[0] == levelEnd[0] && next[1] == levelEnd[1])
                EndLevel();
            var n = Take((int)Math.Min(ChunkStates, moreStates - looked), asked);
            looked += n;
            Expand(n);
        }
        foreach (var p in programs)
            if (p.Cut)
                Bound ??= "A step has more ways than can be told apart, or a queue holds more than is kept.";
    }

    /// <summary>With fewer states at once than these, one thread does it all.</summary>
    internal int AloneBelow { get; init; } = AloneStates;

    /// <summary>What was come to.</summary>
    internal StateSet Kept => set;

    // States that are expanded before what they lead to is looked up; with fewer than the second number one thread does it all.
    private const int ChunkStates = 2048,
        AloneStates = 384;

    private void EndLevel()
    {
        var ends = new int[StateSet.Shards];
        for (var shard = 0; shard < StateSet.Shards; shard++)
            ends[shard] = levelEnd[shard] = set[shard].Count;
        levels.Add(ends);
        Depth = levels.Count - 1;
    }

    // The next states of this depth. Whatever the engine must be asked for them is asked now, by one thread: from then on
    // the programs' steps are only read.
    private int Take(int most, long asked)
    {
        var n = 0;
        for (var shard = 0; shard < StateSet.Shards; shard++)
        for (; next[shard] < levelEnd[shard] && n < most && (n == 0 || Asked <= asked); next[shard]++)
        {
            var state = StateSet.NumberOf(shard, next[shard]);
            Prepare(state);
            chunk[n++] = state;
        }
        return n;
    }

    private void Prepare(int state)
    {
        var words = set.StateOf(state);
        for (var p = 0; p < programs.Length; p++)
            Prepare(p, StateSet.Field(words, p * IdBits, IdBits));
        if (delayMicros == 0 || StateSet.Field(words, programs.Length * IdBits, 3) == 0)
            return;
        var message = StateSet.Field(words, programs.Length * IdBits + 3, MessageBits);
        var to = messages[message].To;
        var id = StateSet.Field(words, to * IdBits, IdBits);
        Told(to, id, message);
    }

    // Expands what was taken and keeps what it leads to. The halves are taken in order, and so are the candidates of each
    // shard: what comes out does not depend on how many threads there are.
    private void Expand(int n)
    {
        var half = n / 2;
        int[] before = [set[0].Count, set[1].Count];
        // Where messages take no time, hearing them asks the engine: nothing else may at the same time.
        if (n < AloneBelow || delayMicros == 0 && messages.Count > 1)
        {
            workers[0].Expand(chunk.AsSpan(0, half));
            workers[1].Expand(chunk.AsSpan(half, n - half));
            Keep(0);
            Keep(1);
        }
        else
        {
            Parallel.Invoke(() => workers[0].Expand(chunk.AsSpan(0, half)), () => workers[1].Expand(chunk.AsSpan(half, n - half)));
            Parallel.Invoke(() => Keep(0), () => Keep(1));
        }
        Note(before);
    }

    private void Keep(int shard)
    {
        foreach (var worker in workers)
            set[shard].Add(worker.Reached[shard]);
    }

    private void Note(int[] before)
    {
        foreach (var worker in workers)
        {
            Steps += worker.Steps;
            Bound ??= worker.Bound;
            foreach (var (what, from, by, shard, candidate) in worker.Clashes)
                Hit(what, from, by, shard < 0 ? -1 : StateSet.NumberOf(shard, worker.Reached[shard].Landed(candidate)));
            worker.Clear();
        }
        if (nevers.All(n => n == 0))
            return;
        for (var shard = 0; shard < StateSet.Shards; shard++)
        for (var place = before[shard]; place < set[shard].Count; place++)
        {
            var words = set[shard][place];
            for (var p = 0; p < programs.Length; p++)
                if ((programs[p].RulesIn(StateSet.Field(words, p * IdBits, IdBits)) & nevers[p]) is > 0 and var broken)
                    for (var r = 0; r < 64; r++)
                        if ((broken >> r & 1) != 0)
                            Hit(
                                new(SoughtKind.Never, p, r),
                                set[shard].ParentOf(place),
                                set[shard].StepTo(place),
                                StateSet.NumberOf(shard, place)
                            );
        }
    }

    private void Begin()
    {
        // Every way in which the programs may begin, each with each.
        workers[0].Begin([.. programs.Select(p => p.Start())]);
        Keep(0);
        Keep(1);
        Note([0, 0]);
        EndLevel();
    }

    private const int OwnBase = 1 << 28,
        DeliverBy = 1 << 29;

    private Outcome[] Told(int to, int state, int message) =>
        programs[to].ToldKnown(state, message) ?? programs[to].Told(state, message, messages[message], InOwn(to, messages[message].From));

    private int InOwn(int program, int other) => Array.IndexOf(programs[program].Script.Programs, names[other]);

    private void Prepare(int p, int id)
    {
        if (id >= ready[p].Length)
            Array.Resize(ref ready[p], Math.Max(id + 1, ready[p].Length * 2));
        if (ready[p][id])
            return;
        ready[p][id] = true;
        var at = id * 2 * sharedWords;
        if (at + 2 * sharedWords > changes[p].Length)
            Array.Resize(ref changes[p], Math.Max(at + 2 * sharedWords, changes[p].Length * 2));
        for (var s = 0; s < shared.Length; s++)
            if (shared[s].Of[p] is { Kind: not StimulusKind.Told } what)
            {
                var n = programs[p].Shared(id, s, what).Length;
                if (n > 0)
                    changes[p][at + (s >> 6)] |= 1UL << (s & 63);
                if (n > 1)
                    changes[p][at + sharedWords + (s >> 6)] |= 1UL << (s & 63);
            }
        programs[p].Own(id);
    }

    private void Hit(Sought what, int from, int by, int to)
    {
        if (!hits.TryGetValue(what, out var list))
            hits[what] = list = [];
        if (list.Count < MostHits)
            list.Add((from, by, to));
    }

    private int Unpack(int state, int[] into)
    {
        for (var p = 0; p < into.Length; p++)
            into[p] = set.Field(state, p * IdBits, IdBits);
        return set.Field(state, into.Length * IdBits, 3);
    }

    // ---- messages ----

    private int NumberOf(int from, ScriptMachine machine, ScriptMessage sent)
    {
        var script = programs[from].Script;
        var to = sent.Program >= 0 ? Array.IndexOf(names, script.Programs[sent.Program]) : -1;
        if (to < 0)
            return -1;
        var values = machine.SentValues.Slice(sent.Start, Math.Min(16, sent.Count));
        // Nobody tells one unknown number from another.
        var bits = string.Concat(
            values.ToArray().Select(v => new string(MemoryMarshal.Cast<long, char>([BitConverter.DoubleToInt64Bits(v)])))
        );
        var message = new Message(to, from, script.Texts[sent.Text], bits);
        if (messageNumbers.TryGetValue(message, out var number))
            return number;
        if (messages.Count >= 1 << MessageBits)
        {
            Bound ??= "Too many different messages are told.";
            return -1;
        }
        messages.Add(message);
        return messageNumbers[message] = messages.Count - 1;
    }

    private int ListOf(List<int> said)
    {
        var key = string.Join(',', said);
        if (listNumbers.TryGetValue(key, out var number))
            return number;
        lists.Add([.. said]);
        return listNumbers[key] = lists.Count - 1;
    }

    // ---- what may be seen ----

    private static (string Name, Stimulus[] Of)[] SharedOf(LocalSteps[] programs, string[] names)
    {
        var found = new List<(string, Stimulus[])>();
        var none = new Stimulus(StimulusKind.Told, -1);
        var seen = programs.Select(p => new Seen(p)).ToArray();
        foreach (var sensor in programs.SelectMany(p => p.Script.Sensors.Select(s => Outside(p.Script, s))).Distinct())
        {
            void All(string name, Func<Seen, Stimulus?> of)
            {
                Stimulus[] each = [.. seen.Select(s => of(s) ?? none)];
                if (each.Any(e => e.Kind != StimulusKind.Told))
                    found.Add((name, each));
            }
            var zones = seen.SelectMany(s => s.Zones(sensor)).Distinct().ToArray();
            foreach (var zone in zones)
                All($"{sensor} is {zone}", s => s.Zone(sensor, zone));
            // All that nothing asks for is one: somewhere else.
            if (zones.Length > 0 && seen.Select(s => s.Other(sensor, zones)).FirstOrDefault(z => z is not null) is { } other)
                All($"{sensor} is {other}", s => s.Zone(sensor, other));
            if (seen.Any(s => s.Presses(sensor)))
            {
                All($"{sensor} pressed", s => s.Button(sensor, StimulusKind.Down));
                All($"{sensor} released", s => s.Button(sensor, StimulusKind.Up));
                if (seen.Any(s => s.Taps(sensor)))
                    All($"{sensor} released", s => s.Button(sensor, StimulusKind.UpSoon));
                if (seen.Any(s => s.TapsTwice(sensor)))
                    All($"{sensor} released", s => s.Button(sensor, StimulusKind.UpAgain));
            }
            if (seen.Any(s => s.MindsSilence(sensor)))
                All($"{sensor} hears nothing", s => s.Simply(sensor, StimulusKind.Silent));
            if (seen.Any(s => s.MindsConfusion(sensor)))
                All($"{sensor} cannot tell", s => s.Simply(sensor, StimulusKind.Confused));
            var numbers = new Stretches(seen.SelectMany(s => s.Numbers(sensor)));
            // What heard nothing hears something again, wherever that lies.
            if (
                zones.Length == 0
                && numbers.Count == 1
                && seen.Any(s => s.MindsSilence(sensor) || s.MindsConfusion(sensor))
                && seen.Select(s => s.Other(sensor, [])).FirstOrDefault(z => z is not null) is { } anywhere
            )
                All($"{sensor} is {anywhere}", s => s.In(sensor, anywhere));
            if (numbers.Count > 1)
                for (var place = 0; place < numbers.Count; place++)
                {
                    var value = numbers[place];
                    All(FormattableString.Invariant($"{sensor} reads {value}"), s => s.Reads(sensor, value));
                }
            else if (seen.Any(s => s.MindsNumber(sensor)))
                All($"{sensor} reads 0", s => s.Simply(sensor, StimulusKind.Reads));
        }
        // What a program may say that is only stored, or cannot be read: nobody knows when.
        for (var p = 0; p < programs.Length; p++)
            foreach (var (text, from) in seen[p].SaidBy(names))
            {
                Stimulus[] each = [.. programs.Select((_, i) => i == p ? new(StimulusKind.Said, text, from) : none)];
                found.Add(($"told {programs[p].Script.Texts[text]} from {programs[p].Script.Programs[from]}", each));
            }
        return [.. found];
    }

    private static string Outside(CompiledScript script, string name) =>
        script.OwnNames.FirstOrDefault(o => o.Name == name)?.Outside ?? name;

    // What one program looks at.
    private sealed class Seen(LocalSteps program)
    {
        private readonly CompiledScript script = program.Script;
        private readonly Code[] codes = [.. program.Script.AllCodes];
        private readonly ScriptTransition[] transitions = [.. program.Script.Units.SelectMany(u => u.Transitions)];

        private int Sensor(string name)
        {
            for (var i = 0; i < script.Sensors.Length; i++)
                if (Outside(script, script.Sensors[i]) == name)
                    return i;
            return -1;
        }

        /// <summary>Texts that are waited for from programs other than these, each with the program.</summary>
        public IEnumerable<(int Text, int From)> SaidBy(string[] explored)
        {
            int[] others =
            [
                .. Enumerable
                    .Range(0, script.Programs.Length)
                    .Where(i => !explored.Contains(script.Programs[i]) && script.Programs[i] != script.Program.Name),
            ];
            return transitions
                .Where(t => t.Kind == FireKind.Told)
                .SelectMany(t => others.Where(o => t.From < 0 || t.From == o).Select(o => (t.Text, o)))
                .Distinct();
        }

        private bool IsSwitch(int sensor) => sensor >= 0 && script.IsSwitch[sensor];

        public IEnumerable<string> Zones(string name)
        {
            var sensor = Sensor(name);
            if (sensor < 0 || script.IsSwitch[sensor])
                return [];
            if (codes.Any(c => c is ZoneOf z && z.Sensor == sensor))
                return script.Rig.Sensors[sensor].Zones;
            return transitions
                .Where(t => t.Sensor == sensor && t.Zone >= 0)
                .Select(t => script.Zones[t.Zone])
                .Concat(codes.OfType<InZone>().Where(z => z.Sensor == sensor && z.Zone >= 0).Select(z => script.Zones[z.Zone]))
                .Concat(script.SilenceZone[sensor] is >= 0 and var silent ? [script.Zones[silent]] : [])
                .Distinct();
        }

        public string? Other(string name, string[] named) =>
            Sensor(name) is >= 0 and var sensor ? script.Rig.Sensors[sensor].Zones.FirstOrDefault(z => !named.Contains(z)) : null;

        public Stimulus? Zone(string name, string zone) =>
            Sensor(name) is >= 0 and var sensor && Zones(name).Any() && script.ZoneIndex(zone) is >= 0 and var number
                ? new(StimulusKind.Zone, sensor, number)
                : null;

        public Stimulus? In(string name, string zone) =>
            Sensor(name) is >= 0 and var sensor && script.ZoneIndex(zone) is >= 0 and var number
                ? new(StimulusKind.Zone, sensor, number)
                : null;

        public bool Presses(string name) =>
            Sensor(name) is var sensor
            && IsSwitch(sensor)
            && (
                transitions.Any(t => t.Sensor == sensor)
                || codes.Any(c => c is InZone z && z.Sensor == sensor || c is ZoneOf o && o.Sensor == sensor)
            );

        public bool Taps(string name) =>
            transitions.Any(t =>
                t.Sensor == Sensor(name) && t.Kind == FireKind.Press && t.Press is PressKind.Tapped or PressKind.TappedTwice
            );

        public bool TapsTwice(string name) =>
            transitions.Any(t => t.Sensor == Sensor(name) && t.Kind == FireKind.Press && t.Press == PressKind.TappedTwice);

        public Stimulus? Button(string name, StimulusKind kind) => Presses(name) ? new(kind, Sensor(name)) : null;

        public bool MindsSilence(string name) =>
            Sensor(name) is >= 0 and var sensor
            && script.Rig.Sensors[sensor].MayHearNothing
            && (codes.Any(c => c is HearsNothing h && h.Sensor == sensor) || script.SilenceZone[sensor] >= 0 && Zones(name).Any());

        public bool MindsConfusion(string name) =>
            Sensor(name) is >= 0 and var sensor && codes.Any(c => c is CannotTell q && q.Sensor == sensor);

        public bool MindsNumber(string name) => Sensor(name) is >= 0 and var sensor && codes.Any(c => c is Reading r && r.Sensor == sensor);

        public Stimulus? Simply(string name, StimulusKind kind) => Sensor(name) is >= 0 and var sensor ? new(kind, sensor) : null;

        public IEnumerable<double> Numbers(string name) =>
            Sensor(name) is >= 0 and var sensor && program.Kept.Readings[sensor] is { } kept ? kept.Constants : [];

        public Stimulus? Reads(string name, double value) =>
            Sensor(name) is >= 0 and var sensor && program.Kept.Readings[sensor] is { } kept
                ? new(StimulusKind.Reads, sensor, kept.Of(value))
                : null;
    }
}
