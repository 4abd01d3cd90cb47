using System.Collections.Immutable;

namespace Chiton.Core.Classroom;

/// <summary>Whether a code may be tried.</summary>
public enum TryVerdict
{
    /// <summary>It may.</summary>
    Free,

    /// <summary>Too many were wrong from this address within a minute: it may again once that minute is over.</summary>
    Wait,

    /// <summary>Too many were wrong in all: it may again once somebody at the desk has let it.</summary>
    Locked,
}

/// <summary>Codes that were tried and wrong. Guessing is hopeless: of some 47 million codes at most 60 are tried until somebody looks up.
/// An immutable value; whoever holds it replaces it.</summary>
public sealed record CodeTries
{
    /// <summary>Most wrong codes from one address within a minute.</summary>
    public const int MostAMinute = 10;

    /// <summary>Most wrong codes in all, until the desk lets joining go on.</summary>
    public const int MostInAll = 60;

    private ImmutableDictionary<string, ImmutableList<DateTime>> Wrong { get; init; } =
        ImmutableDictionary<string, ImmutableList<DateTime>>.Empty;

    /// <summary>None yet.</summary>
    public static CodeTries None { get; } = new();

    /// <summary>Wrong codes since the desk let joining go on last.</summary>
    public int InAll { get; private init; }

    /// <summary>True when joining waits for the desk.</summary>
    public bool Locked => InAll >= MostInAll;

    /// <summary>Whether a code may be tried from an address now.</summary>
    /// <param name="address">The address that asks.</param>
    /// <param name="nowUtc">The time now, UTC.</param>
    public TryVerdict May(string address, DateTime nowUtc) =>
        Locked ? TryVerdict.Locked
        : Lately(address, nowUtc).Count >= MostAMinute ? TryVerdict.Wait
        : TryVerdict.Free;

    /// <summary>After a wrong code.</summary>
    public CodeTries After(string address, DateTime nowUtc) =>
        this with
        {
            InAll = InAll + 1,
            Wrong = Wrong
                .RemoveRange(Wrong.Keys.Where(k => k != address && Lately(k, nowUtc).Count == 0))
                .SetItem(address, Lately(address, nowUtc).Add(nowUtc)),
        };

    /// <summary>After a code that was taken for a wrong one turned out right.</summary>
    public CodeTries Right(string address) =>
        Wrong.GetValueOrDefault(address) is { Count: > 0 } all
            ? this with
            {
                InAll = Math.Max(0, InAll - 1),
                Wrong = Wrong.SetItem(address, all.RemoveAt(all.Count - 1)),
            }
            : this;

    private ImmutableList<DateTime> Lately(string address, DateTime nowUtc) =>
        (Wrong.GetValueOrDefault(address) ?? []).RemoveAll(t => nowUtc - t >= TimeSpan.FromMinutes(1));
}
