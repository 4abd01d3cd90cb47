using Chiton.Core.Checking;

namespace Chiton.Data;

/// <summary>
/// The exploration that was asked to go deeper than one waits for after an edit: on a thread of its own, to be stopped at
/// any moment. There is one at a time; beginning another stops it. What it found so far is what the checks say.
/// </summary>
public sealed class Exploring
{
    // So many states at a time, between which readers may look.
    private const long Slice = 20_000;

    private static readonly Lock Guard = new();
    private static Exploring? latest;

    private readonly Explorer explorer;
    private readonly CancellationTokenSource stop = new();
    private readonly Lock gate;
    private Task? work;

    private Exploring(string stamp, Explorer explorer, Lock gate) => (Stamp, this.explorer, this.gate) = (stamp, explorer, gate);

    /// <summary>What state it is of.</summary>
    public string Stamp { get; }

    /// <summary>True while it goes on.</summary>
    public bool Running => work is { IsCompleted: false };

    /// <summary>Counts up when there is something new to say.</summary>
    public int Version { get; private set; }

    /// <summary>How far it has come.</summary>
    public ExploredFar Far { get; private set; } = ExploredFar.Nothing;

    /// <summary>The one that goes on; null where none does.</summary>
    public static Exploring? Going => latest is { Running: true } one ? one : null;

    /// <summary>The one of a state; null where nobody asked to go deeper there.</summary>
    public static Exploring? Of(string stamp) => latest is { } one && one.Stamp == stamp ? one : null;

    /// <summary>Goes deeper.</summary>
    /// <param name="stamp">What state it is of.</param>
    /// <param name="make">Makes the exploration, where none of this state is kept.</param>
    /// <param name="done">Called once it has come to its end or was stopped.</param>
    public static Exploring Deeper(string stamp, Func<Explorer> make, Func<Task> done)
    {
        lock (Guard)
        {
            if (Of(stamp) is { Running: true } going)
                return going;
            latest?.Stop();
            // What was stopped goes on where it was, once its last slice is over.
            var one = Of(stamp) is { } kept
                ? new Exploring(stamp, kept.explorer, kept.gate) { Version = kept.Version, Far = kept.Far }
                : new Exploring(stamp, make(), new());
            latest = one;
            one.work = Task.Run(async () =>
            {
                try
                {
                    one.Go();
                }
                finally
                {
                    one.Version++;
                    await done();
                }
            });
            return one;
        }
    }

    private void Go()
    {
        while (!stop.IsCancellationRequested)
        {
            lock (gate)
            {
                if (explorer.States > 0 && !explorer.MayGoOn)
                    break;
                explorer.Run(Slice, long.MaxValue, stop.Token);
                Far = ExploredFar.Of(explorer);
            }
        }
    }

    /// <summary>Stops it; what it found so far stays.</summary>
    public void Stop() => stop.Cancel();

    /// <summary>Looks at what was found so far.</summary>
    public T Look<T>(Func<Explorer, T> look)
    {
        lock (gate)
            return look(explorer);
    }
}
