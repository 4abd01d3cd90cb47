namespace Chiton.Core.Quantities;

/// <summary>Where a number comes from. Every number that Chiton shows carries one of these four.</summary>
public enum Provenance
{
    /// <summary>A decision, such as a speed set point or a time limit. It has no spread: controllers carry out what is written.</summary>
    Chosen,

    /// <summary>A physical quantity that was typed in and never tested. Its spread is wide: a share of its usable span.</summary>
    Guessed,

    /// <summary>Follows by a formula from other numbers, and so does its spread.</summary>
    Calculated,

    /// <summary>Comes from readings or trials on this copy of the rig.</summary>
    Measured,
}
