using System.Collections.Concurrent;
using Chiton.Core.Quantities;

namespace Chiton.Server.App.Room;

/// <summary>Jobs of whoever asks: a device in the room can stop its own alone, and has one long one at a time.</summary>
public sealed class OwnJobs(Jobs jobs, Caller caller)
{
    /// <summary>Most short jobs of a device at once.</summary>
    public const int MostAtOnce = 4;

    // How many jobs of each device go on, long ones by themselves.
    private static readonly ConcurrentDictionary<(Jobs, string), int> Busy = new();

    private string? Name(string? name) =>
        name is { Length: > 100 } ? throw new InputProblem("job", "At most 100 characters.")
        : caller.Session is null || name is null or "" ? name
        : $"{caller.Key}/{name}";

    /// <inheritdoc cref="Jobs.Begin"/>
    public Jobs.Job Begin(string? name, CancellationToken request) => jobs.Begin(Name(name), request);

    /// <inheritdoc cref="Jobs.Run"/>
    public async Task<T> Run<T>(
        WorkKind kind,
        string? name,
        TimeSpan? most,
        Func<CancellationToken, T> work,
        CancellationToken request,
        bool partial = false
    )
    {
        if (caller.Session is null)
            return await jobs.Run(kind, name, most, work, request, partial);
        // A long one stands for itself; of short ones a few at once, so that no device takes all the machine's threads.
        var (key, limit) = kind == WorkKind.Long ? ((jobs, $"{caller.Key} long"), 1) : ((jobs, caller.Key), MostAtOnce);
        if (Busy.AddOrUpdate(key, 1, (_, n) => n + 1) > limit)
        {
            Busy.AddOrUpdate(key, 0, (_, n) => n - 1);
            throw new TooMany(
                kind == WorkKind.Long
                    ? "One long job at a time: the one before goes on. Wait for it, or stop it."
                    : $"At most {MostAtOnce} runs and walks at once on one device. Wait for one of them."
            );
        }
        try
        {
            return await jobs.Run(kind, Name(name), most, work, request, partial);
        }
        finally
        {
            Busy.AddOrUpdate(key, 0, (_, n) => n - 1);
        }
    }

    /// <inheritdoc cref="Jobs.Stop"/>
    public bool Stop(string name) => jobs.Stop(Name(name)!);
}

/// <summary>A device asked for more at once than it may.</summary>
public sealed class TooMany(string say) : Exception(say);
