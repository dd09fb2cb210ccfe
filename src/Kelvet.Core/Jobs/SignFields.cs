using Kelvet.Core.Observed;
using Kelvet.Core.Text;

namespace Kelvet.Core.Jobs;

/// <summary>What was seen and heard of a start, as files have it.</summary>
internal static class SignFields
{
    /// <summary>A field for each row.</summary>
    public static readonly ObjectForm<Signs> Signs = new(
        [.. SignKinds.All],
        read =>
            SignKinds.All.Aggregate(Observed.Signs.None, (signs, kind) => read.Has(kind.Key) ? kind.With(signs, read.At(kind.Key)) : signs)
    );
}
