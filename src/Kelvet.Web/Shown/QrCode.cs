using Microsoft.AspNetCore.Html;
using QRCoder;

namespace Kelvet.Web.Shown;

/// <summary>An address as a code that a phone reads.</summary>
public static class QrCode
{
    /// <summary>The code as SVG, black on white in either theme.</summary>
    public static IHtmlContent Of(string address)
    {
        using var generator = new QRCodeGenerator();
        using var data = generator.CreateQrCode(address, QRCodeGenerator.ECCLevel.M);
        using var code = new SvgQRCode(data);
        return new HtmlString(code.GetGraphic(4, "#000000", "#ffffff", drawQuietZones: true, SvgQRCode.SizingMode.ViewBoxAttribute));
    }
}
