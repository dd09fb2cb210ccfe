namespace Kelvet.Core.Text;

/// <summary>
/// What was worked out last, so many of it: when it is full, what was asked for longest ago goes. Safe to be used from several
/// threads.
/// </summary>
/// <param name="most">How many, 1 upward.</param>
public sealed class Recent<TKey, TValue>(int most)
    where TKey : notnull
{
    private readonly Lock _lock = new();
    private readonly Dictionary<TKey, LinkedListNode<(TKey Key, TValue Value)>> _at = [];
    private readonly LinkedList<(TKey Key, TValue Value)> _order = new();

    /// <summary>How many are kept.</summary>
    public int Count
    {
        get
        {
            lock (_lock)
                return _at.Count;
        }
    }

    /// <summary>What is kept under a key.</summary>
    public bool TryGet(TKey key, out TValue value)
    {
        lock (_lock)
        {
            if (!_at.TryGetValue(key, out var node))
            {
                value = default!;
                return false;
            }

            _order.Remove(node);
            _order.AddFirst(node);
            value = node.Value.Value;
            return true;
        }
    }

    /// <summary>Keeps what is made of what was kept before.</summary>
    /// <param name="key">The key.</param>
    /// <param name="make">Makes it; given what was kept and whether anything was. Quick: nobody else is served meanwhile.</param>
    public TValue Update(TKey key, Func<TValue?, bool, TValue> make)
    {
        lock (_lock)
        {
            var known = _at.TryGetValue(key, out var node);
            var value = make(known ? node!.Value.Value : default, known);
            if (known)
                _order.Remove(node!);
            _at[key] = _order.AddFirst((key, value));
            if (_at.Count > most)
            {
                _at.Remove(_order.Last!.Value.Key);
                _order.RemoveLast();
            }

            return value;
        }
    }

    /// <summary>Forgets one.</summary>
    public void Drop(TKey key)
    {
        lock (_lock)
        {
            if (_at.Remove(key, out var node))
                _order.Remove(node);
        }
    }

    /// <summary>Forgets everything.</summary>
    public void Clear()
    {
        lock (_lock)
        {
            _at.Clear();
            _order.Clear();
        }
    }
}
