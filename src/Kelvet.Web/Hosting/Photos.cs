using SkiaSharp;

namespace Kelvet.Web.Hosting;

/// <summary>Photos from the bench, re-encoded: the right way up, no larger than a report needs, nothing of the camera's left beside the picture.</summary>
public static class Photos
{
    /// <summary>Largest file that is taken, bytes.</summary>
    public const long MostBytes = 10_000_000;

    private const int MostPixels = 60_000_000;
    private const int LongestSide = 2000;
    private const int Quality = 82;

    /// <summary>Reads a PNG, JPEG or WebP picture and writes it anew as JPEG.</summary>
    /// <returns>The JPEG, or why there is none.</returns>
    public static (byte[]? Jpeg, string? Why) Clean(byte[] file)
    {
        if (file.LongLength > MostBytes) return (null, $"The photo has {file.LongLength / 1e6:0.0} MB; 10 MB is the most.");
        using var data = SKData.CreateCopy(file);
        using var codec = SKCodec.Create(data);
        if (codec is null || codec.EncodedFormat is not (SKEncodedImageFormat.Png or SKEncodedImageFormat.Jpeg or SKEncodedImageFormat.Webp))
            return (null, "The photo is not a PNG, JPEG or WebP picture.");
        if ((long)codec.Info.Width * codec.Info.Height > MostPixels) return (null, $"The photo has {codec.Info.Width} by {codec.Info.Height} pixels; 60 million is the most.");
        using var raw = SKBitmap.Decode(codec);
        if (raw is null) return (null, "The photo is damaged and cannot be read.");
        var turned = codec.EncodedOrigin is SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightTop or SKEncodedOrigin.RightBottom or SKEncodedOrigin.LeftBottom;
        var (width, height) = turned ? (raw.Height, raw.Width) : (raw.Width, raw.Height);
        var scale = Math.Min(1f, (float)LongestSide / Math.Max(width, height));
        using var surface = SKSurface.Create(new SKImageInfo(Math.Max(1, (int)(width * scale)), Math.Max(1, (int)(height * scale)), SKColorType.Rgba8888, SKAlphaType.Opaque));
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

    /// <summary>The turn or mirroring that sets a picture upright. Origins are those of the Exif standard (CIPA DC-008), tag 0x0112.</summary>
    private static SKMatrix Upright(SKEncodedOrigin origin, int w, int h) => origin switch
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
