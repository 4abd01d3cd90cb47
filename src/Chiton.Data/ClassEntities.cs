namespace Chiton.Data;

/// <summary>Who somebody is in the room.</summary>
public enum RoomRole
{
    /// <summary>A team: its own rigs.</summary>
    Team,

    /// <summary>The educator on another device than the desk.</summary>
    Educator,

    /// <summary>A judge: scores.</summary>
    Judge,
}

/// <summary>A class: teams that learn together.</summary>
public sealed class ClassRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>Its name.</summary>
    public required string Name { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedUtc { get; set; }
}

/// <summary>A team of a class.</summary>
public sealed class TeamRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>The class.</summary>
    public long ClassId { get; set; }

    /// <summary>Its name; there is one of each in a class.</summary>
    public required string Name { get; set; }

    /// <summary>The table it sits at, from 1.</summary>
    public int Table { get; set; }

    /// <summary>Its own code, with which further devices join it.</summary>
    public required string Code { get; set; }

    /// <summary>Since when its hand is up, UTC; null when it is down.</summary>
    public DateTime? HandUpUtc { get; set; }

    /// <summary>When it was made, UTC.</summary>
    public DateTime CreatedUtc { get; set; }
}

/// <summary>One opening of a class's room.</summary>
public sealed class RoomRow
{
    /// <summary>Key; rises with time.</summary>
    public long Id { get; set; }

    /// <summary>The class.</summary>
    public long ClassId { get; set; }

    /// <summary>When it was opened, UTC.</summary>
    public DateTime OpenedUtc { get; set; }

    /// <summary>When it was closed, UTC; null while it is open.</summary>
    public DateTime? ClosedUtc { get; set; }

    /// <summary>Addresses that it was opened at, comma-separated.</summary>
    public required string Addresses { get; set; }

    /// <summary>The code that teams join with.</summary>
    public required string JoinCode { get; set; }

    /// <summary>The code that judges join with.</summary>
    public required string JudgeCode { get; set; }

    /// <summary>When the lesson ends, UTC; null when nobody said.</summary>
    public DateTime? EndsUtc { get; set; }

    /// <summary>What the educator says to all; may be empty.</summary>
    public string Message { get; set; } = "";
}

/// <summary>A device in the room. What it holds is kept as its hash alone.</summary>
public sealed class SessionRow
{
    /// <summary>Key.</summary>
    public long Id { get; set; }

    /// <summary>The class.</summary>
    public long ClassId { get; set; }

    /// <summary>Who it is.</summary>
    public RoomRole Role { get; set; }

    /// <summary>Its team; null for others.</summary>
    public long? TeamId { get; set; }

    /// <summary>SHA-256 of its token, hexadecimal.</summary>
    public required string Hash { get; set; }

    /// <summary>When it ends, UTC.</summary>
    public DateTime UntilUtc { get; set; }
}
