using SkiaSharp;

namespace Kelvet.Web.Hosting;

/// <summary>Takes photos in, two at a time: what a picture costs to read is bounded, however many come at once.</summary>
public sealed class PhotoRoom : IDisposable
{
    private readonly SemaphoreSlim _two = new(2);

    /// <summary>Reads an uploaded picture and writes it anew.</summary>
    /// <returns>The JPEG, or why there is none.</returns>
    public async Task<(byte[]? Jpeg, string? Why)> ReadAsync(IFormFile photo, CancellationToken cancel, int longest = Photos.LongestSide)
    {
        if (photo.Length > Photos.MostBytes)
            return (null, Photos.TooLarge(photo.Length));
        await _two.WaitAsync(cancel);
        try
        {
            using var memory = new MemoryStream();
            await photo.CopyToAsync(memory, cancel);
            return Photos.Clean(memory.ToArray(), longest);
        }
        finally
        {
            _two.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _two.Dispose();
}

/// <summary>Photos from the bench, re-encoded: the right way up, no larger than a report needs, nothing of the camera's left beside
/// the picture.</summary>
public static class Photos
{
    /// <summary>Largest file that is taken, bytes.</summary>
    public const long MostBytes = 10_000_000;

    /// <summary>Most pixels: a JPEG is read at the size that is needed, the others are read whole.</summary>
    private const int MostPixels = 60_000_000,
        MostPixelsWhole = 30_000_000;

    /// <summary>Longest side of what is kept, pixels.</summary>
    public const int LongestSide = 2000;

    /// <summary>Longest side of what stands at the head of papers, pixels: about 4 cm as printed.</summary>
    public const int LogoSide = 480;

    private const int Quality = 82;

    /// <summary>Says that a file is too large.</summary>
    public static string TooLarge(long bytes) => $"The photo has {bytes / 1e6:0.0} MB; {MostBytes / 1_000_000} MB is the most.";

    /// <summary>Reads a PNG, JPEG or WebP picture and writes it anew as JPEG. It is read at the size that is needed, where its
    /// format can.</summary>
    /// <returns>The JPEG, or why there is none.</returns>
    public static (byte[]? Jpeg, string? Why) Clean(byte[] file, int longest = LongestSide)
    {
        if (file.LongLength > MostBytes)
            return (null, TooLarge(file.LongLength));
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        if (
            codec is null
            || codec.EncodedFormat is not (SKEncodedImageFormat.Png or SKEncodedImageFormat.Jpeg or SKEncodedImageFormat.Webp)
        )
            return (null, "The photo is not a PNG, JPEG or WebP picture.");
        var most = codec.EncodedFormat == SKEncodedImageFormat.Jpeg ? MostPixels : MostPixelsWhole;
        if ((long)codec.Info.Width * codec.Info.Height > most)
            return (null, $"The photo has {codec.Info.Width} by {codec.Info.Height} pixels; {most / 1_000_000} million is the most.");
        using var raw = Decoded(codec);
        if (raw is null)
            return (null, "The photo is damaged or cut off and cannot be read to its end.");
        var turned =
            codec.EncodedOrigin
            is SKEncodedOrigin.LeftTop
                or SKEncodedOrigin.RightTop
                or SKEncodedOrigin.RightBottom
                or SKEncodedOrigin.LeftBottom;
        var (width, height) = turned ? (raw.Height, raw.Width) : (raw.Width, raw.Height);
        var scale = Math.Min(1f, (float)longest / Math.Max(width, height));
        using var surface = SKSurface.Create(
            new SKImageInfo(Math.Max(1, (int)(width * scale)), Math.Max(1, (int)(height * scale)), SKColorType.Rgba8888, SKAlphaType.Opaque)
        );
        var canvas = surface.Canvas;
        canvas.Clear(SKColors.White);
        canvas.Scale(scale);
        canvas.Concat(Upright(codec.EncodedOrigin, raw.Width, raw.Height));
        using var image = SKImage.FromBitmap(raw);
        canvas.DrawImage(image, 0, 0, new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        using var snapshot = surface.Snapshot();
        using var jpeg = snapshot.Encode(SKEncodedImageFormat.Jpeg, Quality);
        return (jpeg.ToArray(), null);
    }

    /// <summary>The picture at the smallest size that its format offers from the longest side up; null when it is not whole.</summary>
    private static SKBitmap? Decoded(SKCodec codec)
    {
        const int Steps = 8; // a JPEG is read in eighths of its size
        var longest = Math.Max(codec.Info.Width, codec.Info.Height);
        var size = Enumerable
            .Range(1, Steps)
            .Select(n => codec.GetScaledDimensions((float)n / Steps))
            .FirstOrDefault(s => Math.Max(s.Width, s.Height) >= Math.Min(LongestSide, longest), codec.Info.Size);
        var bitmap = new SKBitmap(
            new SKImageInfo(
                size.Width,
                size.Height,
                SKColorType.Rgba8888,
                codec.Info.AlphaType == SKAlphaType.Opaque ? SKAlphaType.Opaque : SKAlphaType.Premul
            )
        );
        if (codec.GetPixels(bitmap.Info, bitmap.GetPixels()) == SKCodecResult.Success)
            return bitmap;
        bitmap.Dispose();
        return null;
    }

    /// <summary>The turn or mirroring that sets a picture upright. Origins are those of the Exif standard (CIPA DC-008), tag
    /// 0x0112.</summary>
    private static SKMatrix Upright(SKEncodedOrigin origin, int w, int h) =>
        origin switch
        {
            SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, w, 0, 1, 0, 0, 0, 1),
            SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, w, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightTop => new SKMatrix(0, -1, h, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, h, -1, 0, w, 0, 0, 1),
            SKEncodedOrigin.LeftBottom => new SKMatrix(0, 1, 0, -1, 0, w, 0, 0, 1),
            _ => SKMatrix.Identity,
        };
}
