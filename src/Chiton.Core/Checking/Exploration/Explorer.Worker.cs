using System.Numerics;

namespace Chiton.Core.Checking;

public sealed partial class Explorer
{
    /// <summary>
    /// Takes states and says what they lead to. Several may do so at the same time: what they read is not written then, and
    /// each writes only what is its own.
    /// </summary>
    private sealed class Worker
    {
        private readonly Explorer of;
        private readonly LocalSteps[] programs;
        private readonly int[] ids,
            work;
        private readonly int[] queue = new int[64];
        private readonly ulong[] making;
        private readonly Outcome?[] chosen;

        public Worker(Explorer of)
        {
            (this.of, programs) = (of, of.programs);
            (ids, work, chosen) = (new int[programs.Length], new int[programs.Length], new Outcome?[programs.Length]);
            making = new ulong[of.set.Words];
            Reached = [new(of.set.Words), new(of.set.Words)];
        }

        private int MessagesAt => programs.Length * IdBits + 3;

        /// <summary>What was come to, by shard.</summary>
        public Candidates[] Reached { get; }

        /// <summary>Clashes on the way: by which step, and to which candidate of which shard; −1 where it is none.</summary>
        public List<(Sought What, int From, int By, int Shard, int Candidate)> Clashes { get; } = [];

        /// <summary>Steps that were looked at since the last <see cref="Clear"/>.</summary>
        public long Steps { get; private set; }

        /// <summary>What was left out since then; null where nothing was.</summary>
        public string? Bound { get; private set; }

        /// <summary>Bytes that all of it takes.</summary>
        public long Bytes => Reached[0].Bytes + Reached[1].Bytes;

        /// <summary>Begins anew.</summary>
        public void Clear()
        {
            Reached[0].Clear();
            Reached[1].Clear();
            Clashes.Clear();
            (Steps, Bound) = (0, null);
        }

        /// <summary>Every way in which the programs may begin, each with each.</summary>
        public void Begin(IReadOnlyList<Outcome>[] starts)
        {
            void All(int p, int[] each)
            {
                if (p == programs.Length)
                {
                    var count = 0;
                    for (var i = 0; i < programs.Length; i++)
                    {
                        work[i] = starts[i][each[i]].Next;
                        count = Say(count, starts[i][each[i]].Said);
                    }
                    Deliver(work, count, -1, 0, 0);
                    return;
                }
                for (var i = 0; i < starts[p].Count; i++)
                {
                    each[p] = i;
                    All(p + 1, each);
                }
            }
            All(0, new int[programs.Length]);
        }

        /// <summary>Looks at every step from these states.</summary>
        public void Expand(ReadOnlySpan<int> states)
        {
            foreach (var state in states)
                Expand(state);
        }

        private void Expand(int state)
        {
            var held = of.Unpack(state, ids);
            var words = of.set.StateOf(state);
            var (sharedWords, changes) = (of.sharedWords, of.changes);
            // Only what changes some program is looked at; most stimuli change one, in one way.
            for (var w = 0; w < sharedWords; w++)
            {
                ulong any = 0,
                    several = 0;
                for (var p = 0; p < programs.Length; p++)
                {
                    any |= changes[p][ids[p] * 2 * sharedWords + w];
                    several |= changes[p][(ids[p] * 2 + 1) * sharedWords + w];
                }
                for (; any != 0; any &= any - 1)
                {
                    var bit = any & (~any + 1);
                    var s = (w << 6) + BitOperations.TrailingZeroCount(any);
                    if ((several & bit) != 0)
                    {
                        Each(state, held, s, 0);
                        continue;
                    }
                    words.CopyTo(making);
                    var (clash, clashOf, count) = (-1, -1, held);
                    for (var p = 0; p < programs.Length; p++)
                    {
                        if ((changes[p][ids[p] * 2 * sharedWords + w] & bit) == 0)
                            continue;
                        ref readonly var outcome = ref programs[p].SharedKnown(ids[p], s)![0];
                        StateSet.Put(making, p * IdBits, IdBits, outcome.Next);
                        if (outcome.Said > 0)
                            count = Append(count, outcome.Said);
                        if (outcome.Clash >= 0)
                            (clash, clashOf) = (outcome.Clash, p);
                    }
                    Arrive(held, count, state, s, clashOf, clash);
                }
            }
            for (var p = 0; p < programs.Length; p++)
            {
                var own = programs[p].OwnKnown(ids[p])!;
                for (var i = 0; i < own.Length; i++)
                    foreach (ref readonly var outcome in programs[p].Outcomes(own[i].Outcomes).AsSpan())
                    {
                        words.CopyTo(making);
                        StateSet.Put(making, p * IdBits, IdBits, outcome.Next);
                        var count = outcome.Said > 0 ? Append(held, outcome.Said) : held;
                        Arrive(held, count, state, OwnBase + (p << 20) + i, outcome.Clash >= 0 ? p : -1, outcome.Clash);
                    }
            }
            if (held > 0 && of.delayMicros > 0)
                Hear(of.set.Field(state, MessagesAt, MessageBits), held, state);
        }

        // Each way of each program with each of the others.
        private void Each(int state, int held, int s, int p)
        {
            if (p < programs.Length)
            {
                var list = of.shared[s].Of[p].Kind == StimulusKind.Told ? [] : programs[p].SharedKnown(ids[p], s)!;
                if (list.Length == 0)
                {
                    chosen[p] = null;
                    Each(state, held, s, p + 1);
                }
                foreach (var outcome in list)
                {
                    chosen[p] = outcome;
                    Each(state, held, s, p + 1);
                }
                return;
            }
            var count = Reload(state, held);
            var (clash, clashOf) = (-1, -1);
            for (var i = 0; i < programs.Length; i++)
            {
                work[i] = chosen[i]?.Next ?? ids[i];
                if (chosen[i] is not { } outcome)
                    continue;
                count = Say(count, outcome.Said);
                if (outcome.Clash >= 0)
                    (clash, clashOf) = (outcome.Clash, i);
            }
            Arrive(count, state, s, clashOf, clash);
        }

        // The oldest message on its way arrives.
        private void Hear(int message, int held, int state)
        {
            var to = of.messages[message].To;
            var outcomes = of.Told(to, ids[to], message);
            if (outcomes.Length == 0)
            {
                Next(state, held);
                Arrive(held, held - 1, state, DeliverBy, -1, -1);
                return;
            }
            foreach (ref readonly var outcome in outcomes.AsSpan())
            {
                Next(state, held);
                StateSet.Put(making, to * IdBits, IdBits, outcome.Next);
                var count = outcome.Said > 0 ? Append(held - 1, outcome.Said) : held - 1;
                Arrive(held, count, state, DeliverBy, outcome.Clash >= 0 ? to : -1, outcome.Clash);
            }
        }

        // Writes a state without its oldest message: the others move up, and behind them nothing stands.
        private void Next(int state, int held)
        {
            var words = of.set.StateOf(state);
            words.CopyTo(making);
            for (var i = 0; i < held; i++)
                StateSet.Put(
                    making,
                    MessagesAt + i * MessageBits,
                    MessageBits,
                    i + 1 < held ? StateSet.Field(words, MessagesAt + (i + 1) * MessageBits, MessageBits) : 0
                );
        }

        private int Reload(int state, int held)
        {
            for (var i = 0; i < held; i++)
                queue[i] = of.set.Field(state, MessagesAt + i * MessageBits, MessageBits);
            return held;
        }

        private int Say(int count, int list)
        {
            foreach (var message in of.lists[list])
                if (count < queue.Length)
                    queue[count++] = message;
            return count;
        }

        // Writes what is said behind the messages that are on their way, as far as there is room.
        private int Append(int count, int list)
        {
            foreach (var message in of.lists[list])
            {
                if (count < MostOnTheWay)
                    StateSet.Put(making, MessagesAt + count * MessageBits, MessageBits, message);
                if (count < queue.Length)
                    queue[count++] = message;
            }
            return count;
        }

        // Where a step leads to whose programs and messages are written already.
        private void Arrive(int held, int count, int from, int by, int clashOf, int clash)
        {
            if (of.delayMicros == 0 && count > 0)
            {
                for (var p = 0; p < work.Length; p++)
                    work[p] = StateSet.Field(making, p * IdBits, IdBits);
                Arrive(count, from, by, clashOf, clash);
                return;
            }
            Steps++;
            if (count > MostOnTheWay)
            {
                Bound ??= $"More than {MostOnTheWay} messages are on their way at once.";
                return;
            }
            if (count != held)
                StateSet.Put(making, MessagesAt - 3, 3, count);
            var (shard, candidate) = Reach(from, by);
            if (clash >= 0)
                Clashes.Add((new(SoughtKind.Clash, clashOf, clash), from, by, shard, candidate));
        }

        // Where a step leads to: with messages that take no time all of them are heard first.
        private void Arrive(int count, int from, int by, int clashOf, int clash)
        {
            Steps++;
            var (shard, candidate) = (-1, -1);
            if (of.delayMicros > 0 || count == 0)
            {
                if (count > MostOnTheWay)
                {
                    Bound ??= $"More than {MostOnTheWay} messages are on their way at once.";
                    return;
                }
                (shard, candidate) = Reach(work, count, from, by);
            }
            if (clash >= 0)
                Clashes.Add((new(SoughtKind.Clash, clashOf, clash), from, by, shard, candidate));
            if (shard < 0)
                Deliver([.. work], count, from, by, 0);
        }

        private void Deliver(int[] at, int count, int from, int by, int rounds)
        {
            if (of.delayMicros > 0 || count == 0)
            {
                if (count > MostOnTheWay)
                    Bound ??= $"More than {MostOnTheWay} messages are on their way at once.";
                else
                    Reach(at, count, from, by);
                return;
            }
            if (rounds > 200)
            {
                Bound ??= "Messages go round without time passing.";
                return;
            }
            var waiting = queue.AsSpan(0, count).ToArray();
            var message = waiting[0];
            var to = of.messages[message].To;
            var outcomes = of.Told(to, at[to], message);
            if (outcomes.Length == 0)
            {
                waiting.AsSpan(1).CopyTo(queue);
                Deliver(at, count - 1, from, by, rounds + 1);
                return;
            }
            foreach (var outcome in outcomes)
            {
                waiting.AsSpan(1).CopyTo(queue);
                int[] then = [.. at];
                then[to] = outcome.Next;
                if (outcome.Clash >= 0)
                    Clashes.Add((new(SoughtKind.Clash, to, outcome.Clash), from, by, -1, -1));
                Deliver(then, Say(count - 1, outcome.Said), from, by, rounds + 1);
            }
        }

        private (int Shard, int Candidate) Reach(int[] at, int count, int from, int by)
        {
            Array.Clear(making);
            for (var p = 0; p < at.Length; p++)
                StateSet.Put(making, p * IdBits, IdBits, at[p]);
            StateSet.Put(making, MessagesAt - 3, 3, count);
            for (var i = 0; i < count; i++)
                StateSet.Put(making, MessagesAt + i * MessageBits, MessageBits, queue[i]);
            return Reach(from, by);
        }

        private (int Shard, int Candidate) Reach(int from, int by)
        {
            var hash = StateSet.Hash(making);
            var shard = StateSet.ShardOf(hash);
            return (shard, Reached[shard].Add(making, hash, from, by));
        }
    }
}
