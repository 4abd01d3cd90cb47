namespace Chiton.Core.Classroom;

/// <summary>How the lines of the board are ordered.</summary>
public enum BoardOrder
{
    /// <summary>By the number of the table.</summary>
    Seat,

    /// <summary>Those first that are longest without a change; a hand that is up goes before all.</summary>
    Stuck,
}

/// <summary>What the board knows of a team.</summary>
/// <param name="Team">Key of the team.</param>
/// <param name="Name">Its name.</param>
/// <param name="Table">The table it sits at, from 1.</param>
/// <param name="HandUpUtc">Since when its hand is up; null when it is down.</param>
/// <param name="ChangedUtc">When it changed something last; null when it has not yet.</param>
/// <param name="SinceUtc">When it began.</param>
public sealed record BoardTeam(long Team, string Name, int Table, DateTime? HandUpUtc, DateTime? ChangedUtc, DateTime SinceUtc)
{
    /// <summary>Whole minutes without a change.</summary>
    /// <param name="nowUtc">The time now, UTC.</param>
    public int Unchanged(DateTime nowUtc) => Math.Max(0, (int)(nowUtc - (ChangedUtc ?? SinceUtc)).TotalMinutes);
}

/// <summary>The board of a room: who sits where, and who waits.</summary>
public static class Board
{
    /// <summary>The lines in their order. Of two at one table, or stuck equally long, the one of the earlier name goes first, so that lines
    /// do not change places by themselves.</summary>
    /// <param name="teams">The teams.</param>
    /// <param name="order">Which order.</param>
    public static IReadOnlyList<BoardTeam> Order(IEnumerable<BoardTeam> teams, BoardOrder order) =>
        order == BoardOrder.Seat
            ? [.. teams.OrderBy(t => t.Table).ThenBy(t => t.Name, StringComparer.OrdinalIgnoreCase).ThenBy(t => t.Team)]
            :
            [
                .. teams
                    .OrderBy(t => t.HandUpUtc ?? DateTime.MaxValue)
                    .ThenBy(t => t.ChangedUtc ?? t.SinceUtc)
                    .ThenBy(t => t.Name, StringComparer.OrdinalIgnoreCase)
                    .ThenBy(t => t.Team),
            ];

    /// <summary>The first table where nobody sits.</summary>
    public static int FreeTable(IEnumerable<int> taken)
    {
        var all = taken.ToHashSet();
        return Enumerable.Range(1, all.Count + 1).First(t => !all.Contains(t));
    }

    /// <summary>A team's name that no other team has: numbered where it is taken.</summary>
    public static string FreeName(string name, IEnumerable<string> taken)
    {
        var all = taken.ToHashSet(StringComparer.OrdinalIgnoreCase);
        if (!all.Contains(name))
            return name;
        for (var n = 2; ; n++)
        {
            var end = $" {n}";
            var other = name[..Math.Min(name.Length, ClassNames.MostLetters - end.Length)].TrimEnd() + end;
            if (!all.Contains(other))
                return other;
        }
    }
}
