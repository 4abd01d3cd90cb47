using Chiton.Core.Quantities;

namespace Chiton.Core.Programs.Language;

/// <summary>What expressions measure.</summary>
internal static class Measures
{
    /// <summary>What an expression measures, through variables and constants.</summary>
    public static Dimension Of(ExprNode node, ProgramNode program) =>
        node switch
        {
            LiteralNode l => Unit.Find(l.Unit)?.Dimension ?? Dimension.None,
            UnaryNode u => Of(u.Operand, program),
            BinaryNode b => Of(b.Left, program) is not Dimension.None and var left ? left : Of(b.Right, program),
            VariableNode v => program
                .Head.Select(h =>
                    h switch
                    {
                        VarNode x when x.Name == v.Name => x.Value,
                        ConstNode x when x.Name == v.Name => x.Value,
                        _ => null,
                    }
                )
                .FirstOrDefault(x => x is not null)
                is { } value
                ? Of(value, program)
                : Dimension.None,
            CallNode c => c.Arguments.Select(a => Of(a, program)).FirstOrDefault(d => d != Dimension.None),
            RandomNode { From: { } from } => Of(from, program),
            PropertyNode { Kind: PropertyKind.Travel } => Dimension.Length,
            PropertyNode { Kind: PropertyKind.Angle } => Dimension.MotorAngle,
            _ => Dimension.None,
        };
}
