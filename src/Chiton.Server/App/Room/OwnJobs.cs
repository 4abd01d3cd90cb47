using System.Collections.Concurrent;
using Chiton.Core.Quantities;

namespace Chiton.Server.App.Room;

/// <summary>Jobs of whoever asks: a device in the room can stop its own alone, and has one long one at a time.</summary>
public sealed class OwnJobs(Jobs jobs, Caller caller)
{
    // Devices whose long job goes on.
    private static readonly ConcurrentDictionary<(Jobs, string), bool> Busy = new();

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
        var one = kind == WorkKind.Long && caller.Session is not null;
        if (one && !Busy.TryAdd((jobs, caller.Key), true))
            throw new TooMany("One long job at a time: the one before goes on. Wait for it, or stop it.");
        try
        {
            return await jobs.Run(kind, Name(name), most, work, request, partial);
        }
        finally
        {
            if (one)
                Busy.TryRemove((jobs, caller.Key), out _);
        }
    }

    /// <inheritdoc cref="Jobs.Stop"/>
    public bool Stop(string name) => jobs.Stop(Name(name)!);
}

/// <summary>A device asked for more at once than it may.</summary>
public sealed class TooMany(string say) : Exception(say);
