using System.Collections.Concurrent;
using System.Diagnostics;
using Chiton.Core.Quantities;

namespace Chiton.Server.App;

/// <summary>How work is done: what a person waits for at once, what they watch going on, and what nobody asked for.</summary>
public enum WorkKind
{
    /// <summary>A walk or one run: short, and first.</summary>
    Quick,

    /// <summary>A proof: long, watched, and behind everything short.</summary>
    Long,

    /// <summary>A gauge: takes what is left over.</summary>
    Gauge,

    /// <summary>What the bench is tried for between edits: one thread, behind everything.</summary>
    Idle,
}

/// <summary>So much waits already that no more is taken in.</summary>
public sealed class TooBusy(string say) : Exception(say);

/// <summary>Work took longer than it may.</summary>
public sealed class TookTooLong(TimeSpan most)
    : Exception($"This took more than {most.TotalSeconds:0} seconds of work, so it was stopped.");

/// <summary>Work was stopped by its name.</summary>
public sealed class WasStopped() : Exception("This was stopped.");

/// <summary>
/// All computing that takes long. It is done on threads of its own, which the operating system lets run behind those that
/// answer requests; it ends when the client leaves, when it is stopped by its name (also while it waits), or when its time
/// is over.
/// </summary>
public sealed class Jobs : IDisposable
{
    /// <summary>Most jobs of a kind that wait.</summary>
    public const int MostWaiting = 60;

    private readonly ConcurrentDictionary<string, CancellationTokenSource> running = new();
    private readonly int[] waiting = new int[4];
    private readonly WorkThreads[] kinds =
    [
        new(Environment.ProcessorCount, 5),
        new(Environment.ProcessorCount, 12),
        new(Environment.ProcessorCount, 19),
        new(1, 15),
    ];

    /// <summary>Begins a job that the caller works on itself; stops when the request goes away or <see cref="Stop"/> is called.</summary>
    /// <exception cref="InputProblem">When there is one of that name already.</exception>
    public Job Begin(string? name, CancellationToken request)
    {
        if (name is { Length: > 140 })
            throw new InputProblem("job", "At most 100 characters.");
        var source = CancellationTokenSource.CreateLinkedTokenSource(request);
        if (name is { Length: > 0 } && !running.TryAdd(name, source))
            throw new InputProblem("job", $"A job “{name}” is running already.");
        return new(this, name, source);
    }

    /// <summary>Does work on the threads of its kind.</summary>
    /// <param name="kind">Which threads.</param>
    /// <param name="name">A name by which it can be stopped; null for none.</param>
    /// <param name="most">Longest time once it has begun; null for no end.</param>
    /// <param name="work">The work; it looks at the token often. Its scheduler is the current one, for parts of it that run side by
    /// side.</param>
    /// <param name="request">The client that waits.</param>
    /// <param name="partial">True when the work itself makes something of being stopped.</param>
    /// <exception cref="TooBusy">When too much waits.</exception>
    /// <exception cref="TookTooLong">When its time was over.</exception>
    /// <exception cref="WasStopped">When it was stopped by its name.</exception>
    public async Task<T> Run<T>(
        WorkKind kind,
        string? name,
        TimeSpan? most,
        Func<CancellationToken, T> work,
        CancellationToken request,
        bool partial = false
    )
    {
        using var job = Begin(name, request);
        using var time = CancellationTokenSource.CreateLinkedTokenSource(job.Stopping);
        var threads = kinds[(int)kind];
        var before = Interlocked.Increment(ref waiting[(int)kind]) - 1;
        var begun = 0;
        var done = new TaskCompletionSource<T>(TaskCreationOptions.RunContinuationsAsynchronously);
        bool First()
        {
            if (Interlocked.Exchange(ref begun, 1) != 0)
                return false;
            Interlocked.Decrement(ref waiting[(int)kind]);
            return true;
        }
        void Do()
        {
            if (!First())
                return;
            try
            {
                if (most is { } limit)
                    time.CancelAfter(limit);
                done.SetResult(work(time.Token));
            }
            catch (OperationCanceledException)
            {
                done.SetCanceled(CancellationToken.None);
            }
            catch (Exception e)
            {
                done.SetException(e);
            }
        }
        // Stopped while it waits, it is over at once; what makes something of being stopped does so without waiting for its turn.
        void Stopped()
        {
            if (partial)
                _ = Task.Run(Do, CancellationToken.None);
            else if (First())
                done.SetCanceled(CancellationToken.None);
        }
        try
        {
            if (before >= MostWaiting)
                throw new TooBusy($"The bench is busy: {before} others wait already. Try again in a moment.");
            _ = Task.Factory.StartNew(Do, CancellationToken.None, TaskCreationOptions.None, threads);
            await using var stopping = job.Stopping.Register(Stopped);
            return await done.Task;
        }
        catch (OperationCanceledException) when (!request.IsCancellationRequested)
        {
            if (job.Stopping.IsCancellationRequested)
                throw new WasStopped();
            throw new TookTooLong(most ?? TimeSpan.Zero);
        }
        finally
        {
            First();
        }
    }

    /// <summary>Stops a job, also one that still waits; false when there is none of that name.</summary>
    public bool Stop(string name)
    {
        if (!running.TryGetValue(name, out var source))
            return false;
        try
        {
            source.Cancel();
        }
        catch (ObjectDisposedException)
        {
            // It ended by itself at this very moment.
            return false;
        }
        return true;
    }

    /// <inheritdoc/>
    public void Dispose()
    {
        foreach (var threads in kinds)
            threads.Dispose();
    }

    /// <summary>A running job.</summary>
    public sealed class Job(Jobs jobs, string? name, CancellationTokenSource source) : IDisposable
    {
        /// <summary>Set when it is to stop.</summary>
        public CancellationToken Stopping => source.Token;

        /// <inheritdoc/>
        public void Dispose()
        {
            if (name is { Length: > 0 })
                jobs.running.TryRemove(new(name, source));
            source.Dispose();
        }
    }
}

/// <summary>Threads that run behind the others of this machine, as far as the operating system knows how.</summary>
internal sealed partial class WorkThreads : TaskScheduler, IDisposable
{
    private readonly BlockingCollection<Task> tasks = [];
    private readonly int count;

    /// <summary>Starts the threads.</summary>
    /// <param name="count">How many.</param>
    /// <param name="nice">How far behind, 0 to 19.</param>
    public WorkThreads(int count, int nice)
    {
        this.count = count;
        for (var i = 0; i < count; i++)
            new Thread(() =>
            {
                StepBack(nice);
                foreach (var task in tasks.GetConsumingEnumerable())
                    TryExecuteTask(task);
            })
            {
                IsBackground = true,
                Name = $"work behind {nice}",
            }.Start();
    }

    /// <inheritdoc/>
    public override int MaximumConcurrencyLevel => count;

    /// <inheritdoc/>
    protected override IEnumerable<Task> GetScheduledTasks() => tasks.ToArray();

    /// <inheritdoc/>
    protected override void QueueTask(Task task) => tasks.Add(task);

    /// <inheritdoc/>
    // A part that still waits is done by the one that waits for it: else both threads could wait for each other's parts.
    protected override bool TryExecuteTaskInline(Task task, bool taskWasPreviouslyQueued) => Current == this && TryExecuteTask(task);

    // On Linux a thread has its own place in the order of running; elsewhere it runs like any other.
    private static void StepBack(int nice)
    {
        if (OperatingSystem.IsLinux())
            _ = setpriority(0, (uint)gettid(), nice);
        else
            Thread.CurrentThread.Priority = nice > 10 ? ThreadPriority.Lowest : ThreadPriority.BelowNormal;
    }

    [System.Runtime.InteropServices.DllImport("libc")]
    private static extern int setpriority(int which, uint who, int priority);

    [System.Runtime.InteropServices.DllImport("libc")]
    private static extern int gettid();

    /// <inheritdoc/>
    public void Dispose() => tasks.CompleteAdding();
}
