using System.Globalization;
using Kelvet.Core.Text;

namespace Kelvet.Core.Jobs;

/// <summary>
/// A step of a file that may have been written by hand: where it has no id it gets one from its number, and steps that it
/// names by number are named by their ids.
/// </summary>
internal sealed class NumberedStep(DataPart step, IReadOnlyList<Entry> before) : DataPart
{
    protected override string Where => step.At;

    protected override string? Scalar => null;

    protected override IEnumerable<(string Key, DataPart Value)>? FieldsOrNull => !step.IsMap ? null : Named(step.Fields());

    protected override IEnumerable<DataPart>? ItemsOrNull => null;

    private IEnumerable<(string Key, DataPart Value)> Named(IEnumerable<(string Key, DataPart Value)> fields)
    {
        var hasId = false;
        foreach (var (key, value) in fields)
        {
            hasId |= key == "id";
            yield return key switch
            {
                "struck" or "before" when value.IsScalar => (key, IdOf(value)),
                "also" when value.IsList => (key, new Replaced(value, [.. value.Items().Select(IdOf)])),
                "replacement" or "line" when value.IsMap => (key, new NumberedStep(value, before)),
                _ => (key, value),
            };
        }

        if (!hasId)
            yield return ("id", new Replaced(step, NumberedId(before.Count + 1).ToString()));
    }

    private DataPart IdOf(DataPart part)
    {
        if (!int.TryParse(part.Text(), NumberStyles.None, CultureInfo.InvariantCulture, out _))
            return part;
        return before.Count == 0
            ? throw part.Wrong("there is no earlier step")
            : new Replaced(part, before[part.Whole(1, before.Count) - 1].Id.ToString());
    }

    private static Guid NumberedId(int number) => new(number, 0, 0, [0, 0, 0, 0, 0, 0, 0, 1]);

    /// <summary>Another value in the place of what stands there.</summary>
    private sealed class Replaced : DataPart
    {
        private readonly DataPart _where;
        private readonly string? _text;
        private readonly DataPart[]? _items;

        public Replaced(DataPart where, string text) => (_where, _text) = (where, text);

        public Replaced(DataPart where, DataPart[] items) => (_where, _items) = (where, items);

        protected override string Where => _where.At;

        protected override string? Scalar => _text;

        protected override IEnumerable<(string Key, DataPart Value)>? FieldsOrNull => null;

        protected override IEnumerable<DataPart>? ItemsOrNull => _items;
    }
}
