<?xml version="1.0" encoding="utf-8"?>
<!DOCTYPE TS>
<TS version="2.1" language="de_DE">
<context>
    <name>fexel</name>
    <message>
        <source>px</source>
        <translation>px</translation>
    </message>
    <message>
        <source>source pixels behind a pixel here</source>
        <translation>Quellpixel hinter einem Pixel hier</translation>
    </message>
    <message>
        <source>No rectangle was picked before this station.</source>
        <translation>Vor dieser Station wurde kein Rechteck gesetzt.</translation>
    </message>
    <message>
        <source>movement when corners are picked 1 px off</source>
        <translation>Verschiebung bei um 1 px falsch gesetzten Ecken</translation>
    </message>
    <message>
        <source>No control points say a transform here.</source>
        <translation>Hier gibt kein Passpunkt eine Transformation vor.</translation>
    </message>
    <message>
        <source>How well a spline is known between its pairs nobody can tell from the pairs alone.</source>
        <translation>Wie genau ein Spline zwischen seinen Paaren ist, lässt sich aus den Paaren allein nicht sagen.</translation>
    </message>
    <message>
        <source>± of a carried point; hatched where no pairs are around</source>
        <translation>± eines übertragenen Punktes; schraffiert, wo keine Paare liegen</translation>
    </message>
    <message>
        <source>The view is too frontal, or nothing is rectified: the camera&apos;s place cannot be told.</source>
        <translation>Die Ansicht ist zu frontal, oder nichts ist entzerrt: Der Ort der Kamera ist nicht zu bestimmen.</translation>
    </message>
    <message>
        <source>shift of a thing 1 %1 off the plane; it reads %2 % longer</source>
        <translation>Versatz eines Dings 1 %1 vor der Ebene; es misst sich %2 % länger</translation>
    </message>
    <message>
        <source>shift of a thing off the plane by 1 % of the rectangle&apos;s height</source>
        <translation>Versatz eines Dings, das 1 % der Rechteckhöhe vor der Ebene steht</translation>
    </message>
    <message>
        <source>a pair here helps</source>
        <translation>ein Paar hier hilft</translation>
    </message>
    <message>
        <source>Scale varies %1 % over the rectangle in this view</source>
        <translation>Der Maßstab schwankt in dieser Ansicht um %1 % über das Rechteck</translation>
    </message>
    <message>
        <source>only here</source>
        <translation>nur hier</translation>
    </message>
    <message>
        <source>move %1</source>
        <translation>%1 verschieben</translation>
    </message>
    <message>
        <source>expected standard uncertainty; crosses: no texture</source>
        <translation>erwartete Standardunsicherheit; Kreuze: keine Textur</translation>
    </message>
    <message>
        <source>One of %1 columns and rows is drawn</source>
        <translation>Jede %1. Spalte und Zeile ist gezeichnet</translation>
    </message>
    <message>
        <source>Arrows enlarged %1 times</source>
        <translation>Pfeile %1-fach vergrößert</translation>
    </message>
    <message>
        <source>Arrows as long as the displacement</source>
        <translation>Pfeile so lang wie die Verschiebung</translation>
    </message>
    <message>
        <source>; one of %1 columns and rows</source>
        <translation>; jede %1. Spalte und Zeile</translation>
    </message>
    <message>
        <source>Each line begins where its point was in frame %1</source>
        <translation>Jede Linie beginnt, wo ihr Punkt in Bild %1 war</translation>
    </message>
    <message>
        <source>The deformed grid, enlarged %1 times</source>
        <translation>Das verformte Gitter, %1-fach vergrößert</translation>
    </message>
    <message>
        <source>The deformed grid</source>
        <translation>Das verformte Gitter</translation>
    </message>
    <message>
        <source>There is nothing to show</source>
        <translation>Es gibt nichts zu zeigen</translation>
    </message>
    <message>
        <source>Slopes are worked out once their window is switched on</source>
        <translation>Steigungen werden berechnet, sobald ihr Fenster eingeschaltet ist</translation>
    </message>
    <message>
        <source>Streamlines of %1</source>
        <translation>Stromlinien von %1</translation>
    </message>
    <message>
        <source>the mean</source>
        <translation>Mittel</translation>
    </message>
    <message>
        <source>frame %1</source>
        <translation>Bild %1</translation>
    </message>
    <message>
        <source>The background that is taken off for matching</source>
        <translation>Der Hintergrund, der für die Zuordnung abgezogen wird</translation>
    </message>
    <message>
        <source>What still moves, drawn %1 × as long</source>
        <translation>Was sich noch bewegt, %1 × so lang gezeichnet</translation>
    </message>
    <message>
        <source>source</source>
        <translation>Quelle</translation>
    </message>
    <message>
        <source>result</source>
        <translation>Ergebnis</translation>
    </message>
    <message>
        <source>after step %1</source>
        <translation>nach Schritt %1</translation>
    </message>
    <message>
        <source>one picture</source>
        <translation>ein Bild</translation>
    </message>
    <message>
        <source>side by side</source>
        <translation>nebeneinander</translation>
    </message>
    <message>
        <source>curtain: A left, B right</source>
        <translation>Vorhang: A links, B rechts</translation>
    </message>
    <message>
        <source>by turns</source>
        <translation>im Wechsel</translation>
    </message>
    <message>
        <source>difference, B − A</source>
        <translation>Differenz, B − A</translation>
    </message>
    <message>
        <source>tint: A blue, B orange, grey where alike</source>
        <translation>Tönung: A blau, B orange, grau wo gleich</translation>
    </message>
    <message>
        <source>A: %1. B: %2. Shown: %3.</source>
        <translation>A: %1. B: %2. Gezeigt: %3.</translation>
    </message>
    <message>
        <source>%1; %2; %3.</source>
        <translation>%1; %2; %3.</translation>
    </message>
    <message>
        <source>no steps</source>
        <translation>keine Schritte</translation>
    </message>
    <message>
        <source>Result: %1 × %2 px of %3 × %4 %5.</source>
        <translation>Ergebnis: %1 × %2 px zu %3 × %4 %5.</translation>
    </message>
    <message>
        <source>Result: %1 × %2 px; pixel size not known.</source>
        <translation>Ergebnis: %1 × %2 px; Pixelgröße unbekannt.</translation>
    </message>
    <message>
        <source>%1 % of 4 px waves, %2 % of 2.5 px</source>
        <translation>%1 % der Wellen von 4 px, %2 % von 2,5 px</translation>
    </message>
    <message>
        <source>empty beyond the picture</source>
        <translation>außerhalb des Bildes leer</translation>
    </message>
    <message>
        <source>the last pixel goes on</source>
        <translation>das letzte Pixel setzt sich fort</translation>
    </message>
    <message>
        <source>mirrored, the last pixel twice</source>
        <translation>gespiegelt, das letzte Pixel doppelt</translation>
    </message>
    <message>
        <source>mirrored, the last pixel once</source>
        <translation>gespiegelt, das letzte Pixel einfach</translation>
    </message>
    <message>
        <source>the picture again and again</source>
        <translation>das Bild immer wieder</translation>
    </message>
    <message>
        <source>the first frame</source>
        <translation>dem ersten Bild</translation>
    </message>
    <message>
        <source>the frame before</source>
        <translation>dem Bild davor</translation>
    </message>
    <message>
        <source>all pairs</source>
        <translation>allen Paaren</translation>
    </message>
    <message>
        <source>the mean of all</source>
        <translation>dem Mittel aller</translation>
    </message>
    <message>
        <source>the mean of %1</source>
        <translation>dem Mittel von %1</translation>
    </message>
    <message>
        <source>fexel: There is no log level &quot;%1&quot;. Use trace, debug, info, warning, error or off.</source>
        <translation>fexel: Die Protokollstufe „%1“ gibt es nicht. Möglich sind trace, debug, info, warning, error und off.</translation>
    </message>
    <message>
        <source>fexel: There are no words of the language &quot;%1&quot;. Use %2.</source>
        <translation>fexel: Für die Sprache „%1“ gibt es keine Wörter. Möglich sind %2.</translation>
    </message>
    <message>
        <source>fexel: There is no look &quot;%1&quot;. Use light or dark.</source>
        <translation>fexel: Das Aussehen „%1“ gibt es nicht. Möglich sind light und dark.</translation>
    </message>
    <message>
        <source>fexel: Name a chain, or the journal of a run, and the report to write.</source>
        <translation>fexel: Nennen Sie eine Kette oder das Journal eines Laufs und den Bericht, der geschrieben werden soll.</translation>
    </message>
    <message>
        <source>Angle</source>
        <translation>Winkel</translation>
    </message>
    <message>
        <source>&amp;Angle at a corner</source>
        <translation>&amp;Winkel an einer Ecke</translation>
    </message>
    <message>
        <source>Click on one arm, on the corner, and on the other arm, then Return; or a fourth point for the angle between two lines.</source>
        <translation>Auf einen Schenkel, die Ecke und den anderen Schenkel klicken, dann Eingabe; oder ein vierter Punkt für den Winkel zwischen zwei Linien.</translation>
    </message>
    <message>
        <source>angle %1</source>
        <translation>Winkel %1</translation>
    </message>
    <message>
        <source>Circle</source>
        <translation>Kreis</translation>
    </message>
    <message>
        <source>&amp;Circle through points on a rim</source>
        <translation>Kreis &amp;durch Punkte eines Randes</translation>
    </message>
    <message>
        <source>Click points around the rim, three or more. Return or a double click ends, Backspace takes one back, Escape leaves it.</source>
        <translation>Punkte am Rand anklicken, drei oder mehr. Eingabe oder Doppelklick beendet, Rücktaste nimmt einen zurück, Esc verlässt.</translation>
    </message>
    <message>
        <source>circle %1</source>
        <translation>Kreis %1</translation>
    </message>
    <message>
        <source>Count</source>
        <translation>Anzahl</translation>
    </message>
    <message>
        <source>Coun&amp;t places</source>
        <translation>Stellen &amp;zählen</translation>
    </message>
    <message>
        <source>Click on each thing that counts. Return or a double click ends, Backspace takes one back.</source>
        <translation>Jedes Ding anklicken, das zählt. Eingabe oder Doppelklick beendet, Rücktaste nimmt eines zurück.</translation>
    </message>
    <message>
        <source>count %1</source>
        <translation>Anzahl %1</translation>
    </message>
    <message>
        <source>Ellipse</source>
        <translation>Ellipse</translation>
    </message>
    <message>
        <source>&amp;Ellipse, its area and samples</source>
        <translation>&amp;Ellipse, Fläche und Werte</translation>
    </message>
    <message>
        <source>Click on the middle, on the end of one half axis, and on a point of the rim across from it.</source>
        <translation>Die Mitte anklicken, das Ende einer Halbachse und einen Punkt des Randes quer dazu.</translation>
    </message>
    <message>
        <source>area %1</source>
        <translation>Fläche %1</translation>
    </message>
    <message>
        <source>Length</source>
        <translation>Länge</translation>
    </message>
    <message>
        <source>&amp;Length along a known length</source>
        <translation>&amp;Länge entlang einer bekannten Länge</translation>
    </message>
    <message>
        <source>Drag along a known length. Return lays one in the middle, Escape leaves it.</source>
        <translation>Entlang einer bekannten Länge ziehen. Eingabe legt eine in die Mitte, Esc verlässt.</translation>
    </message>
    <message>
        <source>length %1</source>
        <translation>Länge %1</translation>
    </message>
    <message>
        <source>Path</source>
        <translation>Weg</translation>
    </message>
    <message>
        <source>&amp;Path along points</source>
        <translation>Weg durch &amp;Punkte</translation>
    </message>
    <message>
        <source>Click along the way, three points or more. Return or a double click ends, Backspace takes one back, Escape leaves it.</source>
        <translation>Entlang des Weges klicken, drei Punkte oder mehr. Eingabe oder Doppelklick beendet, Rücktaste nimmt einen zurück, Esc verlässt.</translation>
    </message>
    <message>
        <source>path %1</source>
        <translation>Weg %1</translation>
    </message>
    <message>
        <source>Point</source>
        <translation>Punkt</translation>
    </message>
    <message>
        <source>P&amp;oint, its place and samples</source>
        <translation>P&amp;unkt, Ort und Werte</translation>
    </message>
    <message>
        <source>Click on the place.</source>
        <translation>Die Stelle anklicken.</translation>
    </message>
    <message>
        <source>point %1</source>
        <translation>Punkt %1</translation>
    </message>
    <message>
        <source>Polygon</source>
        <translation>Vieleck</translation>
    </message>
    <message>
        <source>Pol&amp;ygon, its area and samples</source>
        <translation>&amp;Vieleck, Fläche und Werte</translation>
    </message>
    <message>
        <source>Click on the corners, three or more. Return or a double click ends, Backspace takes one back, Escape leaves it.</source>
        <translation>Die Ecken anklicken, drei oder mehr. Eingabe oder Doppelklick beendet, Rücktaste nimmt eine zurück, Esc verlässt.</translation>
    </message>
    <message>
        <source>Profile</source>
        <translation>Profil</translation>
    </message>
    <message>
        <source>Pro&amp;file along a line</source>
        <translation>Pro&amp;fil entlang einer Linie</translation>
    </message>
    <message>
        <source>Drag along the line. Return lays one in the middle, Escape leaves it.</source>
        <translation>Entlang der Linie ziehen. Eingabe legt eine in die Mitte, Esc verlässt.</translation>
    </message>
    <message>
        <source>profile %1</source>
        <translation>Profil %1</translation>
    </message>
    <message>
        <source>Rectangle</source>
        <translation>Rechteck</translation>
    </message>
    <message>
        <source>&amp;Rectangle, its area and samples</source>
        <translation>&amp;Rechteck, Fläche und Werte</translation>
    </message>
    <message>
        <source>Drag from one corner to the opposite one. Return lays one in the middle, Escape leaves it.</source>
        <translation>Von einer Ecke zur gegenüberliegenden ziehen. Eingabe legt eines in die Mitte, Esc verlässt.</translation>
    </message>
    <message>
        <source>texture</source>
        <translation>Textur</translation>
    </message>
    <message>
        <source>glare</source>
        <translation>Glanz</translation>
    </message>
    <message>
        <source>correlation</source>
        <translation>Korrelation</translation>
    </message>
    <message>
        <source>uncertainty</source>
        <translation>Unsicherheit</translation>
    </message>
    <message>
        <source>way back</source>
        <translation>Rückweg</translation>
    </message>
    <message>
        <source>limits</source>
        <translation>Grenzen</translation>
    </message>
    <message>
        <source>far from mean</source>
        <translation>fern vom Mittel</translation>
    </message>
    <message>
        <source>neighbours</source>
        <translation>Nachbarn</translation>
    </message>
    <message>
        <source>peak ratio</source>
        <translation>Gipfelverhältnis</translation>
    </message>
    <message>
        <source>Takes out points whose texture lets expect a larger uncertainty than this, in px</source>
        <translation>Entfernt Punkte, deren Textur eine größere Unsicherheit als diese erwarten lässt, in px</translation>
    </message>
    <message>
        <source>Takes out points of whose subset a larger share is at the ends of the range</source>
        <translation>Entfernt Punkte, von deren Feld ein größerer Anteil an den Enden des Wertebereichs liegt</translation>
    </message>
    <message>
        <source>Takes out points with a lower correlation</source>
        <translation>Entfernt Punkte mit geringerer Korrelation</translation>
    </message>
    <message>
        <source>Takes out points that state a larger uncertainty, in px</source>
        <translation>Entfernt Punkte, die eine größere Unsicherheit angeben, in px</translation>
    </message>
    <message>
        <source>Takes out points whose way back ends farther from the start, in px</source>
        <translation>Entfernt Punkte, deren Rückweg weiter vom Anfang endet, in px</translation>
    </message>
    <message>
        <source>Takes out points whose displacement lies outside of what was drawn on the scatter</source>
        <translation>Entfernt Punkte, deren Verschiebung außerhalb des im Streubild Gezeichneten liegt</translation>
    </message>
    <message>
        <source>Takes out points more than so many standard deviations from the mean of all</source>
        <translation>Entfernt Punkte, die mehr als so viele Standardabweichungen vom Mittel aller liegen</translation>
    </message>
    <message>
        <source>Takes out points unlike their neighbours, by the normalised median test</source>
        <translation>Entfernt Punkte, die ihren Nachbarn unähnlich sind, nach dem normierten Mediantest</translation>
    </message>
    <message>
        <source>Takes out points of which another peak of the correlation is nearly as high: the ratio of the two</source>
        <translation>Entfernt Punkte, bei denen ein anderer Gipfel der Korrelation fast so hoch ist: das Verhältnis beider</translation>
    </message>
    <message>
        <source>not possible</source>
        <translation>nicht möglich</translation>
    </message>
    <message>
        <source>suggested</source>
        <translation>empfohlen</translation>
    </message>
    <message>
        <source>A larger model is hardly better than this one.</source>
        <translation>Ein größeres Modell ist kaum besser als dieses.</translation>
    </message>
    <message>
        <source>The pairs speak for this model: the least corrected Akaike criterion.</source>
        <translation>Die Paare sprechen für dieses Modell: das kleinste korrigierte Akaike-Kriterium.</translation>
    </message>
    <message>
        <source>unchecked</source>
        <translation>ungeprüft</translation>
    </message>
    <message>
        <source>It goes through all pairs: nothing checks it.</source>
        <translation>Es geht durch alle Paare: Nichts prüft es.</translation>
    </message>
    <message>
        <source>too free</source>
        <translation>zu frei</translation>
    </message>
    <message>
        <source>It has more freedom than the pairs support, and bends between them.</source>
        <translation>Es hat mehr Freiheit, als die Paare tragen, und biegt sich zwischen ihnen.</translation>
    </message>
    <message>
        <source>too simple</source>
        <translation>zu einfach</translation>
    </message>
    <message>
        <source>It leaves more of the pairs over than a larger model.</source>
        <translation>Es lässt mehr von den Paaren übrig als ein größeres Modell.</translation>
    </message>
    <message>
        <source>expected here</source>
        <translation>hier erwartet</translation>
    </message>
    <message>
        <source>resampled (once, with all geometry of the chain)</source>
        <translation>interpoliert (einmal, mit aller Geometrie der Kette)</translation>
    </message>
    <message>
        <source>moved bit for bit</source>
        <translation>Bit für Bit verschoben</translation>
    </message>
    <message>
        <source>Source</source>
        <translation>Quelle</translation>
    </message>
    <message>
        <source>Result</source>
        <translation>Ergebnis</translation>
    </message>
    <message>
        <source>This ruler is %1 mm long. Scale %2.</source>
        <translation>Dieses Lineal ist %1 mm lang. Maßstab %2.</translation>
    </message>
    <message>
        <source>Sheet %1 of %2, row %3, column %4; sheets overlap by %5 mm.</source>
        <translation>Blatt %1 von %2, Zeile %3, Spalte %4; Blätter überlappen um %5 mm.</translation>
    </message>
    <message>
        <source>the source</source>
        <translation>die Quelle</translation>
    </message>
    <message>
        <source>the result</source>
        <translation>das Ergebnis</translation>
    </message>
    <message>
        <source>Pictures</source>
        <translation>Bilder</translation>
    </message>
    <message>
        <source> and more: %1 frames</source>
        <translation> und weitere: %1 Bilder</translation>
    </message>
    <message>
        <source>size</source>
        <translation>Größe</translation>
    </message>
    <message>
        <source>1 band</source>
        <translation>1 Kanal</translation>
    </message>
    <message>
        <source>%1 bands</source>
        <translation>%1 Kanäle</translation>
    </message>
    <message>
        <source>format</source>
        <translation>Format</translation>
    </message>
    <message>
        <source>as it was read</source>
        <translation>wie gelesen</translation>
    </message>
    <message>
        <source>A</source>
        <translation>A</translation>
    </message>
    <message>
        <source>B</source>
        <translation>B</translation>
    </message>
    <message>
        <source>A: %1, with what was measured on it.</source>
        <translation>A: %1, mit dem, was darin gemessen wurde.</translation>
    </message>
    <message>
        <source>B: %1, with what was measured on it.</source>
        <translation>B: %1, mit dem, was darin gemessen wurde.</translation>
    </message>
    <message>
        <source>Files and their checksums</source>
        <translation>Dateien und ihre Prüfsummen</translation>
    </message>
    <message>
        <source>file</source>
        <translation>Datei</translation>
    </message>
    <message>
        <source>SHA-256</source>
        <translation>SHA-256</translation>
    </message>
    <message>
        <source>Chain</source>
        <translation>Kette</translation>
    </message>
    <message>
        <source>There are no steps: the result is the source.</source>
        <translation>Es gibt keine Schritte: Das Ergebnis ist die Quelle.</translation>
    </message>
    <message>
        <source>no.</source>
        <translation>Nr.</translation>
    </message>
    <message>
        <source>step</source>
        <translation>Schritt</translation>
    </message>
    <message>
        <source>setting</source>
        <translation>Einstellung</translation>
    </message>
    <message>
        <source>pixel</source>
        <translation>Pixel</translation>
    </message>
    <message>
        <source>made</source>
        <translation>entstanden</translation>
    </message>
    <message>
        <source>Kernel: %1. Outside the source: %2.</source>
        <translation>Kern: %1. Außerhalb der Quelle: %2.</translation>
    </message>
    <message>
        <source>From the source to the result:</source>
        <translation>Von der Quelle zum Ergebnis:</translation>
    </message>
    <message>
        <source>No single matrix leads from the source to the result.</source>
        <translation>Keine einzelne Matrix führt von der Quelle zum Ergebnis.</translation>
    </message>
    <message>
        <source>Matrices take a column (x, y, 1) of one picture to the next one. x counts to the right and y down, in pixels; (0, 0) is the outer corner of the first pixel, whose middle is (0.5, 0.5). Angles are positive counter-clockwise.</source>
        <translation>Matrizen führen eine Spalte (x, y, 1) eines Bildes in das nächste. x zählt nach rechts und y nach unten, in Pixeln; (0, 0) ist die äußere Ecke des ersten Pixels, dessen Mitte bei (0,5; 0,5) liegt. Winkel sind gegen den Uhrzeigersinn positiv.</translation>
    </message>
    <message>
        <source>Calibration</source>
        <translation>Kalibrierung</translation>
    </message>
    <message>
        <source>name</source>
        <translation>Name</translation>
    </message>
    <message>
        <source>pixel size</source>
        <translation>Pixelgröße</translation>
    </message>
    <message>
        <source>standard uncertainty</source>
        <translation>Standardunsicherheit</translation>
    </message>
    <message>
        <source>not known</source>
        <translation>unbekannt</translation>
    </message>
    <message>
        <source>lens</source>
        <translation>Objektiv</translation>
    </message>
    <message>
        <source>method</source>
        <translation>Verfahren</translation>
    </message>
    <message>
        <source>for pictures of</source>
        <translation>für Bilder von</translation>
    </message>
    <message>
        <source>%1, as the file says</source>
        <translation>%1, laut Datei</translation>
    </message>
    <message>
        <source>axes</source>
        <translation>Achsen</translation>
    </message>
    <message>
        <source>x to the %1, y %2, turned by %3°; %4 at %5 of the picture that they were laid on</source>
        <translation>x nach %1, y nach %2, um %3° gedreht; %4 bei %5 des Bildes, auf das sie gelegt wurden</translation>
    </message>
    <message>
        <source>right</source>
        <translation>rechts</translation>
    </message>
    <message>
        <source>left</source>
        <translation>links</translation>
    </message>
    <message>
        <source>up</source>
        <translation>oben</translation>
    </message>
    <message>
        <source>down</source>
        <translation>unten</translation>
    </message>
    <message>
        <source>(%1, %2) px</source>
        <translation>(%1, %2) px</translation>
    </message>
    <message>
        <source>time from frame to frame</source>
        <translation>Zeit von Bild zu Bild</translation>
    </message>
    <message>
        <source>Measurements</source>
        <translation>Messungen</translation>
    </message>
    <message>
        <source>Values at A (%1) and B (%2); ± is the standard uncertainty at B.</source>
        <translation>Werte bei A (%1) und B (%2); ± ist die Standardunsicherheit bei B.</translation>
    </message>
    <message>
        <source>Errors at B with their standard uncertainty, in the order of the table.</source>
        <translation>Abweichungen bei B mit ihrer Standardunsicherheit, in der Reihenfolge der Tabelle.</translation>
    </message>
    <message>
        <source>Where the standard uncertainty comes from</source>
        <translation>Woher die Standardunsicherheit kommt</translation>
    </message>
    <message>
        <source>total</source>
        <translation>gesamt</translation>
    </message>
    <message>
        <source>unit</source>
        <translation>Einheit</translation>
    </message>
    <message>
        <source>What else the measurements and their pixels say</source>
        <translation>Was die Messungen und ihre Pixel sonst sagen</translation>
    </message>
    <message>
        <source>of</source>
        <translation>von</translation>
    </message>
    <message>
        <source>value</source>
        <translation>Wert</translation>
    </message>
    <message>
        <source>Control points of step %1</source>
        <translation>Passpunkte von Schritt %1</translation>
    </message>
    <message>
        <source>Pairs, and how far each lies off the fit</source>
        <translation>Paare, und wie weit jedes neben der Anpassung liegt</translation>
    </message>
    <message>
        <source>Models side by side</source>
        <translation>Modelle nebeneinander</translation>
    </message>
    <message>
        <source>Residuals of the pairs, in px.</source>
        <translation>Restabweichungen der Paare, in px.</translation>
    </message>
    <message>
        <source>Alignment</source>
        <translation>Ausrichtung</translation>
    </message>
    <message>
        <source>What was found for each frame; ± is the standard uncertainty of its shift</source>
        <translation>Was für jedes Bild gefunden wurde; ± ist die Standardunsicherheit seiner Verschiebung</translation>
    </message>
    <message>
        <source>How far each frame lies from the reference.</source>
        <translation>Wie weit jedes Bild vom Bezugsbild liegt.</translation>
    </message>
    <message>
        <source>Movement</source>
        <translation>Bewegung</translation>
    </message>
    <message>
        <source>The movement over the picture of %1.</source>
        <translation>Die Bewegung über dem Bild von %1.</translation>
    </message>
    <message>
        <source>all frames</source>
        <translation>allen Bildern</translation>
    </message>
    <message>
        <source>Points and mean movement of each field; ± is the standard uncertainty of one point</source>
        <translation>Punkte und mittlere Bewegung jedes Feldes; ± ist die Standardunsicherheit eines Punktes</translation>
    </message>
    <message>
        <source>frame</source>
        <translation>Bild</translation>
    </message>
    <message>
        <source>ok</source>
        <translation>gut</translation>
    </message>
    <message>
        <source>weak</source>
        <translation>schwach</translation>
    </message>
    <message>
        <source>rejected</source>
        <translation>verworfen</translation>
    </message>
    <message>
        <source>masked</source>
        <translation>maskiert</translation>
    </message>
    <message>
        <source>filled</source>
        <translation>gefüllt</translation>
    </message>
    <message>
        <source>mean x, %1</source>
        <translation>Mittel x, %1</translation>
    </message>
    <message>
        <source>mean y, %1</source>
        <translation>Mittel y, %1</translation>
    </message>
    <message>
        <source>± %1</source>
        <translation>± %1</translation>
    </message>
    <message>
        <source>The course over the frames.</source>
        <translation>Der Verlauf über die Bilder.</translation>
    </message>
    <message>
        <source>Along the profile.</source>
        <translation>Entlang des Profils.</translation>
    </message>
    <message>
        <source>The two components of each point, with the limits.</source>
        <translation>Die zwei Komponenten jedes Punktes, mit den Grenzen.</translation>
    </message>
    <message>
        <source>Histogram of what the figure shows.</source>
        <translation>Häufigkeiten dessen, was die Abbildung zeigt.</translation>
    </message>
    <message>
        <source>Warnings</source>
        <translation>Warnungen</translation>
    </message>
    <message>
        <source>%1 is not the file that this chain was made with: its checksum differs.</source>
        <translation>%1 ist nicht die Datei, mit der diese Kette gemacht wurde: Ihre Prüfsumme weicht ab.</translation>
    </message>
    <message>
        <source>Step %1 cannot be made: %2</source>
        <translation>Schritt %1 ist nicht ausführbar: %2</translation>
    </message>
    <message>
        <source>Frames that did not match: %1. They are written where they are, or left out.</source>
        <translation>Nicht zugeordnete Bilder: %1. Sie werden dort geschrieben, wo sie sind, oder weggelassen.</translation>
    </message>
    <message>
        <source>The sequence is not aligned yet.</source>
        <translation>Die Reihe ist noch nicht ausgerichtet.</translation>
    </message>
    <message>
        <source>The movement was measured with other settings, or before the chain was changed.</source>
        <translation>Die Bewegung wurde mit anderen Einstellungen gemessen, oder bevor die Kette geändert wurde.</translation>
    </message>
    <message>
        <source>made on %1 with Fexel %2</source>
        <translation>erstellt am %1 mit Fexel %2</translation>
    </message>
    <message>
        <source>Report on %1</source>
        <translation>Bericht über %1</translation>
    </message>
    <message>
        <source>values</source>
        <translation>Werte</translation>
    </message>
    <message>
        <source>Distribution of %1.</source>
        <translation>Verteilung von %1.</translation>
    </message>
    <message>
        <source>All files together; s is the standard deviation from file to file</source>
        <translation>Alle Dateien zusammen; s ist die Standardabweichung von Datei zu Datei</translation>
    </message>
    <message>
        <source>mean</source>
        <translation>Mittel</translation>
    </message>
    <message>
        <source>s</source>
        <translation>s</translation>
    </message>
    <message>
        <source>least</source>
        <translation>kleinster</translation>
    </message>
    <message>
        <source>most</source>
        <translation>größter</translation>
    </message>
    <message>
        <source>without a value</source>
        <translation>ohne Wert</translation>
    </message>
    <message>
        <source>Each value; ± is its standard uncertainty</source>
        <translation>Jeder Wert; ± ist seine Standardunsicherheit</translation>
    </message>
    <message>
        <source>±</source>
        <translation>±</translation>
    </message>
    <message>
        <source>problem</source>
        <translation>Problem</translation>
    </message>
    <message>
        <source>Report on the run of %1</source>
        <translation>Bericht über den Lauf von %1</translation>
    </message>
    <message>
        <source>what happened</source>
        <translation>was geschah</translation>
    </message>
    <message>
        <source>remedy</source>
        <translation>Abhilfe</translation>
    </message>
    <message>
        <source>what should be looked at</source>
        <translation>was anzusehen ist</translation>
    </message>
    <message>
        <source>It was not measured: %1</source>
        <translation>Es wurde nicht gemessen: %1</translation>
    </message>
    <message>
        <source>Summary</source>
        <translation>Zusammenfassung</translation>
    </message>
    <message>
        <source>chain</source>
        <translation>Kette</translation>
    </message>
    <message>
        <source>folder of the results</source>
        <translation>Ordner der Ergebnisse</translation>
    </message>
    <message>
        <source>files</source>
        <translation>Dateien</translation>
    </message>
    <message>
        <source>done</source>
        <translation>fertig</translation>
    </message>
    <message>
        <source>failed</source>
        <translation>fehlgeschlagen</translation>
    </message>
    <message>
        <source>not run</source>
        <translation>nicht gelaufen</translation>
    </message>
    <message>
        <source>with a correction of their own</source>
        <translation>mit eigener Korrektur</translation>
    </message>
    <message>
        <source>to be looked at</source>
        <translation>anzusehen</translation>
    </message>
    <message>
        <source>Nothing is measured here: the chain aligns, and its files are one sequence. Report on the chain itself.</source>
        <translation>Hier wird nichts gemessen: Die Kette richtet aus, und ihre Dateien sind eine Reihe. Berichten Sie über die Kette selbst.</translation>
    </message>
    <message>
        <source>Failures</source>
        <translation>Fehlschläge</translation>
    </message>
    <message>
        <source>To be looked at</source>
        <translation>Anzusehen</translation>
    </message>
    <message>
        <source>Files</source>
        <translation>Dateien</translation>
    </message>
    <message>
        <source>ready</source>
        <translation>bereit</translation>
    </message>
    <message>
        <source>doubtful</source>
        <translation>zweifelhaft</translation>
    </message>
    <message>
        <source>cannot be made</source>
        <translation>nicht ausführbar</translation>
    </message>
    <message>
        <source>at work</source>
        <translation>in Arbeit</translation>
    </message>
    <message>
        <source>done, doubtful</source>
        <translation>fertig, zweifelhaft</translation>
    </message>
    <message>
        <source>done before</source>
        <translation>schon fertig</translation>
    </message>
    <message>
        <source>done before, doubtful</source>
        <translation>schon fertig, zweifelhaft</translation>
    </message>
    <message>
        <source>%1 s</source>
        <translation>%1 s</translation>
    </message>
    <message>
        <source>%1 min</source>
        <translation>%1 min</translation>
    </message>
    <message>
        <source>An earlier run here went by another chain; its corrections are not used.</source>
        <translation>Ein früherer Lauf hier ging nach einer anderen Kette; seine Korrekturen werden nicht verwendet.</translation>
    </message>
    <message>
        <source>Corrections of an earlier run are taken over: %1.</source>
        <translation>Korrekturen eines früheren Laufs sind übernommen: %1.</translation>
    </message>
    <message>
        <source>%1 pictures are left out: Fexel wrote them, as records beside them say.</source>
        <translation>%1 Bilder sind weggelassen: Fexel hat sie geschrieben, wie Protokolle daneben sagen.</translation>
    </message>
    <message>
        <source>The table has values for %1, which is not among the pictures%2.</source>
        <translation>Die Tabelle hat Werte für %1, das nicht unter den Bildern ist%2.</translation>
    </message>
    <message>
        <source>, and for %1 more</source>
        <translation>, und für %1 weitere</translation>
    </message>
    <message>
        <source>c%1</source>
        <translation>c%1</translation>
    </message>
    <message>
        <source>z%1</source>
        <translation>z%1</translation>
    </message>
    <message>
        <source>t%1</source>
        <translation>t%1</translation>
    </message>
    <message>
        <source> µm</source>
        <translation> µm</translation>
    </message>
    <message>
        <source> mm</source>
        <translation> mm</translation>
    </message>
    <message>
        <source>band %1</source>
        <translation>Kanal %1</translation>
    </message>
    <message>
        <source>page %1</source>
        <translation>Seite %1</translation>
    </message>
    <message>
        <source>Align</source>
        <translation>Ausrichten</translation>
    </message>
    <message>
        <source>bring all frames, or bands, to one of them</source>
        <translation>alle Bilder oder Kanäle auf eines davon legen</translation>
    </message>
    <message>
        <source>register stack sequence stabilise stabilize drift channels</source>
        <translation>registrieren ausrichten stapel reihe folge stabilisieren drift kanäle verwackelt</translation>
    </message>
    <message>
        <source>not searched yet</source>
        <translation>noch nicht gesucht</translation>
    </message>
    <message>
        <source>%1 of %2 matched</source>
        <translation>%1 von %2 zugeordnet</translation>
    </message>
    <message>
        <source>Background</source>
        <translation>Hintergrund</translation>
    </message>
    <message>
        <source>take off what stands still in all frames</source>
        <translation>abziehen, was in allen Bildern stillsteht</translation>
    </message>
    <message>
        <source>subtract still sequence fixed pattern</source>
        <translation>abziehen untergrund stillstehend festes muster</translation>
    </message>
    <message>
        <source>none yet</source>
        <translation>noch keiner</translation>
    </message>
    <message>
        <source>Bands</source>
        <translation>Kanäle</translation>
    </message>
    <message>
        <source>grey, or some bands in another order</source>
        <translation>grau, oder einige Kanäle in anderer Reihenfolge</translation>
    </message>
    <message>
        <source>channels colour color red green blue grey gray</source>
        <translation>kanäle bänder farbe rot grün blau grau</translation>
    </message>
    <message>
        <source>grey</source>
        <translation>grau</translation>
    </message>
    <message>
        <source>choose…</source>
        <translation>wählen …</translation>
    </message>
    <message>
        <source>mean 3 × 3</source>
        <translation>Mittel 3 × 3</translation>
    </message>
    <message>
        <source>mean 2 × 2 (half a pixel aside)</source>
        <translation>Mittel 2 × 2 (um ein halbes Pixel versetzt)</translation>
    </message>
    <message>
        <source>binomial 3 × 3</source>
        <translation>binomial 3 × 3</translation>
    </message>
    <message>
        <source>sharpen</source>
        <translation>schärfen</translation>
    </message>
    <message>
        <source>slope in x</source>
        <translation>Steigung in x</translation>
    </message>
    <message>
        <source>slope in y</source>
        <translation>Steigung in y</translation>
    </message>
    <message>
        <source>Laplacian</source>
        <translation>Laplace</translation>
    </message>
    <message>
        <source>Convolve</source>
        <translation>Falten</translation>
    </message>
    <message>
        <source>sums of neighbours with a kernel of your own</source>
        <translation>Summen der Nachbarn mit einem eigenen Kern</translation>
    </message>
    <message>
        <source>filter sharpen edge derivative sobel kernel</source>
        <translation>filter faltung schärfen kante ableitung kern</translation>
    </message>
    <message>
        <source>%1 × %2 numbers</source>
        <translation>%1 × %2 Zahlen</translation>
    </message>
    <message>
        <source>Crop</source>
        <translation>Zuschneiden</translation>
    </message>
    <message>
        <source>cut out a rectangle</source>
        <translation>ein Rechteck ausschneiden</translation>
    </message>
    <message>
        <source>trim region of interest window ratio</source>
        <translation>beschneiden ausschnitt bereich seitenverhältnis fenster</translation>
    </message>
    <message>
        <source>to the area without gaps</source>
        <translation>auf die Fläche ohne Lücken</translation>
    </message>
    <message>
        <source>from %1, %2</source>
        <translation>ab %1, %2</translation>
    </message>
    <message>
        <source>Denoise</source>
        <translation>Entrauschen</translation>
    </message>
    <message>
        <source>median or Gaussian of the surroundings</source>
        <translation>Median oder Gauß der Umgebung</translation>
    </message>
    <message>
        <source>median gaussian smooth blur noise</source>
        <translation>median gauß glätten weichzeichnen rauschen</translation>
    </message>
    <message>
        <source>median, radius %1 px</source>
        <translation>Median, Radius %1 px</translation>
    </message>
    <message>
        <source>Gaussian, radius %1 px</source>
        <translation>Gauß, Radius %1 px</translation>
    </message>
    <message>
        <source>denoising</source>
        <translation>Entrauschen</translation>
    </message>
    <message>
        <source>median, %1 px</source>
        <translation>Median, %1 px</translation>
    </message>
    <message>
        <source>Gaussian, %1 px</source>
        <translation>Gauß, %1 px</translation>
    </message>
    <message>
        <source>edges stay, outliers vanish</source>
        <translation>Kanten bleiben, Ausreißer verschwinden</translation>
    </message>
    <message>
        <source>noise and detail go down together</source>
        <translation>Rauschen und Einzelheiten nehmen zusammen ab</translation>
    </message>
    <message>
        <source>Downsample</source>
        <translation>Zusammenfassen</translation>
    </message>
    <message>
        <source>blocks of pixels to one each</source>
        <translation>Pixelblöcke zu je einem</translation>
    </message>
    <message>
        <source>bin average reduce smaller sum</source>
        <translation>blöcke mitteln verkleinern summe binning</translation>
    </message>
    <message>
        <source>by %1</source>
        <translation>zu %1</translation>
    </message>
    <message>
        <source>by %1 × %2</source>
        <translation>zu %1 × %2</translation>
    </message>
    <message>
        <source>statistic</source>
        <translation>Statistik</translation>
    </message>
    <message>
        <source>first sample</source>
        <translation>erster Wert</translation>
    </message>
    <message>
        <source>samples as they are; may alias</source>
        <translation>Werte wie sie sind; kann Moiré geben</translation>
    </message>
    <message>
        <source>least noise, hardly any aliasing</source>
        <translation>wenigstes Rauschen, kaum Moiré</translation>
    </message>
    <message>
        <source>median</source>
        <translation>Median</translation>
    </message>
    <message>
        <source>outliers vanish</source>
        <translation>Ausreißer verschwinden</translation>
    </message>
    <message>
        <source>smallest</source>
        <translation>kleinster</translation>
    </message>
    <message>
        <source>dark things grow</source>
        <translation>Dunkles wächst</translation>
    </message>
    <message>
        <source>largest</source>
        <translation>größter</translation>
    </message>
    <message>
        <source>bright things grow</source>
        <translation>Helles wächst</translation>
    </message>
    <message>
        <source>goes through all %1 pairs; nothing is left to check it</source>
        <translation>geht durch alle %1 Paare; nichts bleibt, um es zu prüfen</translation>
    </message>
    <message>
        <source>%1 pairs within %2 px RMS</source>
        <translation>%1 Paare innerhalb von %2 px RMS</translation>
    </message>
    <message>
        <source>not with these pairs</source>
        <translation>nicht mit diesen Paaren</translation>
    </message>
    <message>
        <source>Control points</source>
        <translation>Passpunkte</translation>
    </message>
    <message>
        <source>lay control points on where they belong</source>
        <translation>Passpunkte dorthin legen, wo sie hingehören</translation>
    </message>
    <message>
        <source>affine projective polynomial thin-plate spline warp register control points landmarks pairs</source>
        <translation>affin projektiv polynom spline verzerren registrieren passpunkte marken paare</translation>
    </message>
    <message>
        <source>%1, %2 pairs</source>
        <translation>%1, %2 Paare</translation>
    </message>
    <message>
        <source>Residuals, fitted less given, enlarged %1 times</source>
        <translation>Restabweichungen, angepasst minus vorgegeben, %1-fach vergrößert</translation>
    </message>
    <message>
        <source>model</source>
        <translation>Modell</translation>
    </message>
    <message>
        <source>High-pass</source>
        <translation>Hochpass</translation>
    </message>
    <message>
        <source>take slow changes of light away</source>
        <translation>langsame Helligkeitsverläufe entfernen</translation>
    </message>
    <message>
        <source>background flatten shading illumination</source>
        <translation>hintergrund schattierung beleuchtung ausgleichen</translation>
    </message>
    <message>
        <source>within %1 px</source>
        <translation>innerhalb von %1 px</translation>
    </message>
    <message>
        <source>Lens</source>
        <translation>Objektiv</translation>
    </message>
    <message>
        <source>undo the distortion of a lens, or add it</source>
        <translation>die Verzeichnung eines Objektivs aufheben oder hinzufügen</translation>
    </message>
    <message>
        <source>distortion barrel pincushion undistort straight lines</source>
        <translation>verzeichnung tonne kissen gerade linien linse</translation>
    </message>
    <message>
        <source>add, k1 %1</source>
        <translation>hinzufügen, k1 %1</translation>
    </message>
    <message>
        <source>undo, k1 %1</source>
        <translation>aufheben, k1 %1</translation>
    </message>
    <message>
        <source>Local contrast</source>
        <translation>Lokaler Kontrast</translation>
    </message>
    <message>
        <source>the same contrast everywhere</source>
        <translation>überall derselbe Kontrast</translation>
    </message>
    <message>
        <source>equalise equalize local brightness</source>
        <translation>ausgleichen lokal helligkeit</translation>
    </message>
    <message>
        <source>tiles of %1 px</source>
        <translation>Kacheln von %1 px</translation>
    </message>
    <message>
        <source>Matrix</source>
        <translation>Matrix</translation>
    </message>
    <message>
        <source>any planar map, by its nine numbers</source>
        <translation>jede ebene Abbildung, durch ihre neun Zahlen</translation>
    </message>
    <message>
        <source>affine projective homography transform shear</source>
        <translation>affin projektiv homographie transformation scherung</translation>
    </message>
    <message>
        <source>affine</source>
        <translation>affin</translation>
    </message>
    <message>
        <source>projective</source>
        <translation>projektiv</translation>
    </message>
    <message>
        <source>Mirror</source>
        <translation>Spiegeln</translation>
    </message>
    <message>
        <source>left and right, or up and down, change places</source>
        <translation>links und rechts, oder oben und unten, tauschen</translation>
    </message>
    <message>
        <source>flip reverse handedness reflect</source>
        <translation>umdrehen umkehren seitenverkehrt</translation>
    </message>
    <message>
        <source>left ↔ right</source>
        <translation>links ↔ rechts</translation>
    </message>
    <message>
        <source>up ↔ down</source>
        <translation>oben ↔ unten</translation>
    </message>
    <message>
        <source>Pad</source>
        <translation>Rand anfügen</translation>
    </message>
    <message>
        <source>more pixels around the picture</source>
        <translation>mehr Pixel um das Bild</translation>
    </message>
    <message>
        <source>border margin extend canvas frame</source>
        <translation>rand rahmen erweitern leinwand</translation>
    </message>
    <message>
        <source>%1 px all around</source>
        <translation>%1 px ringsum</translation>
    </message>
    <message>
        <source>%1, %2, %3, %4 px</source>
        <translation>%1, %2, %3, %4 px</translation>
    </message>
    <message>
        <source>Rectify</source>
        <translation>Entzerren</translation>
    </message>
    <message>
        <source>lay a known rectangle square, so that lengths are true</source>
        <translation>ein bekanntes Rechteck gerade legen, damit Längen stimmen</translation>
    </message>
    <message>
        <source>perspective straighten keystone square homography facade plane corners</source>
        <translation>perspektive stürzende linien rechteck homographie fassade ebene ecken</translation>
    </message>
    <message>
        <source>as %1 to 1</source>
        <translation>wie %1 zu 1</translation>
    </message>
    <message>
        <source>ratio estimated</source>
        <translation>Verhältnis geschätzt</translation>
    </message>
    <message>
        <source>move corner %1</source>
        <translation>Ecke %1 verschieben</translation>
    </message>
    <message>
        <source>Resize</source>
        <translation>Größe ändern</translation>
    </message>
    <message>
        <source>another size, by pixels, factor or pixel size</source>
        <translation>eine andere Größe, nach Pixeln, Faktor oder Pixelgröße</translation>
    </message>
    <message>
        <source>scale resample enlarge shrink zoom dpi resolution thumbnail</source>
        <translation>skalieren vergrößern verkleinern dpi auflösung vorschau</translation>
    </message>
    <message>
        <source>to %1 %2/px</source>
        <translation>auf %1 %2/px</translation>
    </message>
    <message>
        <source>to %1 × %2 px</source>
        <translation>auf %1 × %2 px</translation>
    </message>
    <message>
        <source>to %1 px across</source>
        <translation>auf %1 px Breite</translation>
    </message>
    <message>
        <source>to %1 px down</source>
        <translation>auf %1 px Höhe</translation>
    </message>
    <message>
        <source>Rotate</source>
        <translation>Drehen</translation>
    </message>
    <message>
        <source>by any angle; multiples of 90° are exact</source>
        <translation>um einen beliebigen Winkel; Vielfache von 90° sind exakt</translation>
    </message>
    <message>
        <source>turn quarter 90 180 270 portrait landscape upright straighten level plumb tilted slanted angle degrees horizon</source>
        <translation>drehen viertel 90 180 270 hochformat querformat aufrecht gerade lot waagrecht schief winkel grad horizont</translation>
    </message>
    <message>
        <source>not rotated</source>
        <translation>nicht gedreht</translation>
    </message>
    <message>
        <source>%1° clockwise</source>
        <translation>%1° im Uhrzeigersinn</translation>
    </message>
    <message>
        <source>%1° counter-clockwise</source>
        <translation>%1° gegen den Uhrzeigersinn</translation>
    </message>
    <message>
        <source>“%1” is no number.</source>
        <translation>„%1“ ist keine Zahl.</translation>
    </message>
    <message>
        <source>off</source>
        <translation>aus</translation>
    </message>
    <message>
        <source>output size</source>
        <translation>Ausgabegröße</translation>
    </message>
    <message>
        <source>Tilt</source>
        <translation>Kippen</translation>
    </message>
    <message>
        <source>turn the picture&apos;s plane in space</source>
        <translation>die Bildebene im Raum drehen</translation>
    </message>
    <message>
        <source>perspective pitch yaw roll rotate in space</source>
        <translation>perspektive neigen gieren rollen im raum drehen</translation>
    </message>
    <message>
        <source>%1°, %2°, %3°</source>
        <translation>%1°, %2°, %3°</translation>
    </message>
    <message>
        <source>Translate</source>
        <translation>Verschieben</translation>
    </message>
    <message>
        <source>move the picture in its frame</source>
        <translation>das Bild in seinem Rahmen verschieben</translation>
    </message>
    <message>
        <source>move shift offset displace</source>
        <translation>verschieben versatz bewegen</translation>
    </message>
    <message>
        <source>%1 px %2, %3 px %4</source>
        <translation>%1 px nach %2, %3 px nach %4</translation>
    </message>
    <message>
        <source>Unwrap</source>
        <translation>Abwickeln</translation>
    </message>
    <message>
        <source>roll a ring out to a strip</source>
        <translation>einen Ring zu einem Streifen abrollen</translation>
    </message>
    <message>
        <source>polar ring rim circle dial cylinder</source>
        <translation>polar ring rand kreis skala zylinder</translation>
    </message>
    <message>
        <source>radius %1 to %2 px</source>
        <translation>Radius %1 bis %2 px</translation>
    </message>
    <message>
        <source>exact</source>
        <translation>exakt</translation>
    </message>
    <message>
        <source>from whole pixels</source>
        <translation>aus ganzen Pixeln</translation>
    </message>
    <message>
        <source>resampled once</source>
        <translation>einmal interpoliert</translation>
    </message>
    <message>
        <source>resampled %1 times</source>
        <translation>%1-mal interpoliert</translation>
    </message>
    <message>
        <source>A checkerboard</source>
        <translation>Ein Schachbrett</translation>
    </message>
    <message>
        <source>Dots</source>
        <translation>Punkte</translation>
    </message>
    <message>
        <source>Crossed lines</source>
        <translation>Gekreuzte Linien</translation>
    </message>
    <message>
        <source>scale bar</source>
        <translation>Maßstabsbalken</translation>
    </message>
    <message>
        <source>text</source>
        <translation>Text</translation>
    </message>
    <message>
        <source>arrow</source>
        <translation>Pfeil</translation>
    </message>
    <message>
        <source>outline</source>
        <translation>Umriss</translation>
    </message>
    <message>
        <source>inset</source>
        <translation>Ausschnitt</translation>
    </message>
    <message>
        <source>frame, time</source>
        <translation>Bild, Zeit</translation>
    </message>
    <message>
        <source>measurements</source>
        <translation>Messungen</translation>
    </message>
    <message>
        <source>top left</source>
        <translation>oben links</translation>
    </message>
    <message>
        <source>top</source>
        <translation>oben</translation>
    </message>
    <message>
        <source>top right</source>
        <translation>oben rechts</translation>
    </message>
    <message>
        <source>middle</source>
        <translation>Mitte</translation>
    </message>
    <message>
        <source>bottom left</source>
        <translation>unten links</translation>
    </message>
    <message>
        <source>bottom</source>
        <translation>unten</translation>
    </message>
    <message>
        <source>bottom right</source>
        <translation>unten rechts</translation>
    </message>
    <message>
        <source>, placed by hand</source>
        <translation>, von Hand gesetzt</translation>
    </message>
    <message>
        <source>by the ground</source>
        <translation>nach dem Grund</translation>
    </message>
    <message>
        <source>black</source>
        <translation>schwarz</translation>
    </message>
    <message>
        <source>white</source>
        <translation>weiß</translation>
    </message>
    <message>
        <source>teal</source>
        <translation>petrol</translation>
    </message>
    <message>
        <source>amber</source>
        <translation>bernstein</translation>
    </message>
    <message>
        <source>brick</source>
        <translation>ziegelrot</translation>
    </message>
    <message>
        <source>indigo</source>
        <translation>indigo</translation>
    </message>
    <message>
        <source>rectangle</source>
        <translation>Rechteck</translation>
    </message>
    <message>
        <source>circle</source>
        <translation>Kreis</translation>
    </message>
    <message>
        <source>ring</source>
        <translation>Ring</translation>
    </message>
    <message>
        <source>polygon</source>
        <translation>Vieleck</translation>
    </message>
    <message>
        <source>all</source>
        <translation>alle</translation>
    </message>
    <message>
        <source>%1 and %2</source>
        <translation>%1 und %2</translation>
    </message>
    <message>
        <source>step %1, %2</source>
        <translation>Schritt %1, %2</translation>
    </message>
    <message>
        <source>This picture has %1 × %2 px, and points of %3 lie outside of it: move them onto the picture.</source>
        <translation>Dieses Bild hat %1 × %2 px, und Punkte von %3 liegen außerhalb: Verschieben Sie sie auf das Bild.</translation>
    </message>
    <message>
        <source>Written: %1, %2 frames of %3 × %4 px, </source>
        <translation>Geschrieben: %1, %2 Bilder von %3 × %4 px, </translation>
    </message>
    <message>
        <source>Written: %1, %2 × %3 px, </source>
        <translation>Geschrieben: %1, %2 × %3 px, </translation>
    </message>
    <message>
        <source>exact.</source>
        <translation>exakt.</translation>
    </message>
    <message>
        <source>resampled once.</source>
        <translation>einmal interpoliert.</translation>
    </message>
    <message>
        <source>worked out of whole pixels.</source>
        <translation>aus ganzen Pixeln berechnet.</translation>
    </message>
    <message>
        <source>resampled %1 times.</source>
        <translation>%1-mal interpoliert.</translation>
    </message>
    <message>
        <source> %1 % of it is empty.</source>
        <translation> %1 % davon sind leer.</translation>
    </message>
    <message>
        <source> %1 samples were clamped to the depth&apos;s range.</source>
        <translation> %1 Werte wurden auf den Wertebereich begrenzt.</translation>
    </message>
    <message>
        <source> Not matched, and written where they were: page %1.</source>
        <translation> Nicht zugeordnet, und geschrieben, wo sie waren: Seite %1.</translation>
    </message>
    <message>
        <source> Could not be used, and are empty: page %1</source>
        <translation> Nicht verwendbar, und leer: Seite %1</translation>
    </message>
    <message>
        <source>It is left out.</source>
        <translation>Es ist weggelassen.</translation>
    </message>
    <message>
        <source>from %1 to %2</source>
        <translation>von %1 bis %2</translation>
    </message>
    <message>
        <source>Print to scale</source>
        <translation>Maßstäblich drucken</translation>
    </message>
    <message>
        <source>Scale</source>
        <translation>Maßstab</translation>
    </message>
    <message>
        <source>true size, 1 : 1</source>
        <translation>wahre Größe, 1 : 1</translation>
    </message>
    <message>
        <source>1 : n</source>
        <translation>1 : n</translation>
    </message>
    <message>
        <source>on one sheet</source>
        <translation>auf ein Blatt</translation>
    </message>
    <message>
        <source>n of 1 : n</source>
        <translation>n von 1 : n</translation>
    </message>
    <message>
        <source>n</source>
        <translation>n</translation>
    </message>
    <message>
        <source>with its marks</source>
        <translation>mit seinen Marken</translation>
    </message>
    <message>
        <source>What is printed</source>
        <translation>Was gedruckt wird</translation>
    </message>
    <message>
        <source>Choose the printer…</source>
        <translation>Drucker wählen …</translation>
    </message>
    <message>
        <source>%1 of %2 frames</source>
        <translation>%1 von %2 Bildern</translation>
    </message>
    <message>
        <source>%1 frames along %2 px</source>
        <translation>%1 Bilder entlang %2 px</translation>
    </message>
    <message>
        <source>mosaic of %1 frames, %2 × %3 px; %4 overlaps, of which the worst is off by %5 px</source>
        <translation>Mosaik aus %1 Bildern, %2 × %3 px; %4 Überlappungen, von denen die schlechteste um %5 px abweicht</translation>
    </message>
    <message>
        <source>; exposures evened by %1 to %2</source>
        <translation>; Belichtungen um %1 bis %2 ausgeglichen</translation>
    </message>
    <message>
        <source>Written: %1, %2.</source>
        <translation>Geschrieben: %1, %2.</translation>
    </message>
    <message>
        <source>grow</source>
        <translation>wachsen</translation>
    </message>
    <message>
        <source>keep</source>
        <translation>bleiben</translation>
    </message>
    <message>
        <source>inside</source>
        <translation>innen</translation>
    </message>
    <message>
        <source>translation</source>
        <translation>Verschiebung</translation>
    </message>
    <message>
        <source>rigid</source>
        <translation>starr</translation>
    </message>
    <message>
        <source>similarity</source>
        <translation>Ähnlichkeit</translation>
    </message>
    <message>
        <source>polynomial2</source>
        <translation>Polynom 2. Grades</translation>
    </message>
    <message>
        <source>polynomial3</source>
        <translation>Polynom 3. Grades</translation>
    </message>
    <message>
        <source>thin-plate</source>
        <translation>Dünnplatten-Spline</translation>
    </message>
    <message>
        <source>covered</source>
        <translation>bedeckt</translation>
    </message>
    <message>
        <source>y</source>
        <translation>y</translation>
    </message>
    <message>
        <source>width sigma</source>
        <translation>± der Breite</translation>
    </message>
    <message>
        <source>width</source>
        <translation>Breite</translation>
    </message>
    <message>
        <source>sum</source>
        <translation>Summe</translation>
    </message>
    <message>
        <source>straight</source>
        <translation>Luftlinie</translation>
    </message>
    <message>
        <source>roundness</source>
        <translation>Rundheit</translation>
    </message>
    <message>
        <source>perimeter</source>
        <translation>Umfang</translation>
    </message>
    <message>
        <source>min</source>
        <translation>kleinster</translation>
    </message>
    <message>
        <source>max</source>
        <translation>größter</translation>
    </message>
    <message>
        <source>last</source>
        <translation>letzte</translation>
    </message>
    <message>
        <source>first</source>
        <translation>erster</translation>
    </message>
    <message>
        <source>edges</source>
        <translation>Kanten</translation>
    </message>
    <message>
        <source>edge width</source>
        <translation>Kantenbreite</translation>
    </message>
    <message>
        <source>direction</source>
        <translation>Richtung</translation>
    </message>
    <message>
        <source>deviation</source>
        <translation>Standardabweichung</translation>
    </message>
    <message>
        <source>circumference</source>
        <translation>Umfang</translation>
    </message>
    <message>
        <source>centroid y</source>
        <translation>Schwerpunkt y</translation>
    </message>
    <message>
        <source>centroid x</source>
        <translation>Schwerpunkt x</translation>
    </message>
    <message>
        <source>centre y</source>
        <translation>Mitte y</translation>
    </message>
    <message>
        <source>centre x</source>
        <translation>Mitte x</translation>
    </message>
    <message>
        <source>area</source>
        <translation>Fläche</translation>
    </message>
    <message>
        <source>contrast</source>
        <translation>Kontrast</translation>
    </message>
    <message>
        <source>What moved</source>
        <translation>Was sich bewegte</translation>
    </message>
    <message>
        <source>motion</source>
        <translation>Bewegung</translation>
    </message>
    <message>
        <source>rigid: with rotation</source>
        <translation>starr: mit Drehung</translation>
    </message>
    <message>
        <source>similarity: with scale</source>
        <translation>Ähnlichkeit: mit Maßstab</translation>
    </message>
    <message>
        <source>affine: with skew</source>
        <translation>affin: mit Scherung</translation>
    </message>
    <message>
        <source>against</source>
        <translation>gegen</translation>
    </message>
    <message>
        <source>all pairs, adjusted together</source>
        <translation>alle Paare, gemeinsam ausgeglichen</translation>
    </message>
    <message>
        <source>the frame shown</source>
        <translation>das gezeigte Bild</translation>
    </message>
    <message>
        <source>What is alike</source>
        <translation>Was gleich ist</translation>
    </message>
    <message>
        <source>brightness</source>
        <translation>Helligkeit</translation>
    </message>
    <message>
        <source>edges only</source>
        <translation>nur Kanten</translation>
    </message>
    <message>
        <source>on band</source>
        <translation>auf Kanal</translation>
    </message>
    <message>
        <source>Search</source>
        <translation>Suchen</translation>
    </message>
    <message>
        <source>Try on this frame</source>
        <translation>Mit diesem Bild versuchen</translation>
    </message>
    <message>
        <source>Align all frames</source>
        <translation>Alle Bilder ausrichten</translation>
    </message>
    <message>
        <source>Compare ways to search…</source>
        <translation>Suchweisen vergleichen …</translation>
    </message>
    <message>
        <source>Region</source>
        <translation>Bereich</translation>
    </message>
    <message>
        <source>Match only within a rectangle…</source>
        <translation>Nur in einem Rechteck zuordnen …</translation>
    </message>
    <message>
        <source>Drag from corner to corner of what is to be matched on</source>
        <translation>Von Ecke zu Ecke dessen ziehen, worauf zugeordnet werden soll</translation>
    </message>
    <message>
        <source>Match on the whole frame</source>
        <translation>Auf dem ganzen Bild zuordnen</translation>
    </message>
    <message>
        <source>This frame</source>
        <translation>Dieses Bild</translation>
    </message>
    <message>
        <source>What was found for this frame</source>
        <translation>Was für dieses Bild gefunden wurde</translation>
    </message>
    <message>
        <source>moved in x</source>
        <translation>verschoben in x</translation>
    </message>
    <message>
        <source>moved in y</source>
        <translation>verschoben in y</translation>
    </message>
    <message>
        <source>rotated by</source>
        <translation>gedreht um</translation>
    </message>
    <message>
        <source>Leave it where it is</source>
        <translation>Lassen, wo es ist</translation>
    </message>
    <message>
        <source>Left out by hand.</source>
        <translation>Von Hand weggelassen.</translation>
    </message>
    <message>
        <source>What still moves</source>
        <translation>Was sich noch bewegt</translation>
    </message>
    <message>
        <source>Look for movement in this frame</source>
        <translation>Bewegung in diesem Bild suchen</translation>
    </message>
    <message>
        <source>SelfTest</source>
        <translation>Selbstversuch</translation>
    </message>
    <message>
        <source>Test the accuracy on this frame</source>
        <translation>Die Genauigkeit an diesem Bild prüfen</translation>
    </message>
    <message>
        <source>What the trial said</source>
        <translation>Was der Versuch sagt</translation>
    </message>
    <message>
        <source>One frame is open. Open several files, a folder or a stack to align them.</source>
        <translation>Ein Bild ist offen. Öffnen Sie mehrere Dateien, einen Ordner oder einen Stapel, um sie auszurichten.</translation>
    </message>
    <message>
        <source>Nothing is searched yet: the frames lie where they were.</source>
        <translation>Noch ist nichts gesucht: Die Bilder liegen, wo sie waren.</translation>
    </message>
    <message>
        <source>%1 of %2 frames lie as the reference does; the least certain is known to ±%3 px. This frame: %4</source>
        <translation>%1 von %2 Bildern liegen wie das Bezugsbild; das unsicherste ist auf ±%3 px bekannt. Dieses Bild: %4</translation>
    </message>
    <message>
        <source>Search this frame from here</source>
        <translation>Dieses Bild von hier aus suchen</translation>
    </message>
    <message>
        <source>Align all %1 frames</source>
        <translation>Alle %1 Bilder ausrichten</translation>
    </message>
    <message>
        <source>Not searched yet.</source>
        <translation>Noch nicht gesucht.</translation>
    </message>
    <message>
        <source>Put here by hand; it has no score and no uncertainty. Align all keeps it.</source>
        <translation>Von Hand hierher gelegt; ohne Güte und Unsicherheit. „Alle ausrichten“ behält es.</translation>
    </message>
    <message>
        <source>Not matched; it stays where it is. %1</source>
        <translation>Nicht zugeordnet; es bleibt, wo es ist. %1</translation>
    </message>
    <message>
        <source>This is the reference.</source>
        <translation>Dies ist das Bezugsbild.</translation>
    </message>
    <message>
        <source>Moved by x %1 px, y %2 px, rotated by %3°; known to ±%4 px. It agrees with the reference by %5. %6</source>
        <translation>Verschoben um x %1 px, y %2 px, gedreht um %3°; bekannt auf ±%4 px. Es stimmt mit dem Bezugsbild zu %5 überein. %6</translation>
    </message>
    <message>
        <source>No window of %1 px has enough texture in both frames to tell.</source>
        <translation>Kein Fenster von %1 px hat in beiden Bildern genug Textur für eine Aussage.</translation>
    </message>
    <message>
        <source>%1 of %2 windows of %3 px can tell. The usual one is off by %4 px; noise alone would make it %5 px. %6</source>
        <translation>%1 von %2 Fenstern von %3 px erlauben eine Aussage. Das übliche weicht um %4 px ab; Rauschen allein gäbe %5 px. %6</translation>
    </message>
    <message>
        <source>None moves by more than four times its uncertainty.</source>
        <translation>Keines bewegt sich um mehr als das Vierfache seiner Unsicherheit.</translation>
    </message>
    <message>
        <source>%1 move by more than four times their uncertainty, the farthest, at x %2, y %3, by %4 px: something moved there, or its light changed.</source>
        <translation>%1 bewegen sich um mehr als das Vierfache ihrer Unsicherheit, das fernste, bei x %2, y %3, um %4 px: Dort hat sich etwas bewegt, oder das Licht hat sich geändert.</translation>
    </message>
    <message>
        <source>Moved by known amounts %1 times, the frame was not found once.</source>
        <translation>%1-mal um bekannte Beträge bewegt, wurde das Bild nicht einmal gefunden.</translation>
    </message>
    <message>
        <source>Moved by known amounts %1 times and searched again, this frame came back within %2 px (the search said %3 px), in %4 ms each. %5</source>
        <translation>%1-mal um bekannte Beträge bewegt und wieder gesucht, kam dieses Bild auf %2 px genau zurück (die Suche nannte %3 px), in je %4 ms. %5</translation>
    </message>
    <message>
        <source>%1 times it was not found.</source>
        <translation>%1-mal wurde es nicht gefunden.</translation>
    </message>
    <message>
        <source>Of every second pixel alone: %1 px (said %2 px).</source>
        <translation>Nur aus jedem zweiten Pixel: %1 px (genannt %2 px).</translation>
    </message>
    <message>
        <source> Detail finer than those pixels misleads it.</source>
        <translation> Feinheiten unter diesen Pixeln führen sie irre.</translation>
    </message>
    <message>
        <source>Statistic</source>
        <translation>Statistik</translation>
    </message>
    <message>
        <source>the median</source>
        <translation>der Median</translation>
    </message>
    <message>
        <source>the minimum</source>
        <translation>das Minimum</translation>
    </message>
    <message>
        <source>of the frames</source>
        <translation>der Bilder</translation>
    </message>
    <message>
        <source>Work it out from the frames…</source>
        <translation>Aus den Bildern berechnen …</translation>
    </message>
    <message>
        <source>Of all frames that are not left out, as they are before this step; kept as a picture</source>
        <translation>Aus allen Bildern, die nicht weggelassen sind, wie sie vor diesem Schritt sind; als Bild behalten</translation>
    </message>
    <message>
        <source>Choose a picture…</source>
        <translation>Ein Bild wählen …</translation>
    </message>
    <message>
        <source>The background&apos;s file</source>
        <translation>Die Datei des Hintergrunds</translation>
    </message>
    <message>
        <source>keep its level</source>
        <translation>seine Höhe behalten</translation>
    </message>
    <message>
        <source>Puts the background&apos;s mean back, so that dark samples do not end at 0</source>
        <translation>Gibt das Mittel des Hintergrunds zurück, damit dunkle Werte nicht bei 0 enden</translation>
    </message>
    <message>
        <source>No background yet: the picture stays as it is.</source>
        <translation>Noch kein Hintergrund: Das Bild bleibt, wie es ist.</translation>
    </message>
    <message>
        <source>Nothing is taken off.</source>
        <translation>Nichts wird abgezogen.</translation>
    </message>
    <message>
        <source>What the background shows is taken off, sample by sample; what moves stays.</source>
        <translation>Was der Hintergrund zeigt, wird Wert für Wert abgezogen; was sich bewegt, bleibt.</translation>
    </message>
    <message>
        <source>What the background shows is taken off; what is darker than it ends at 0.</source>
        <translation>Was der Hintergrund zeigt, wird abgezogen; was dunkler ist als er, endet bei 0.</translation>
    </message>
    <message>
        <source>What comes out</source>
        <translation>Was herauskommt</translation>
    </message>
    <message>
        <source>bands in order</source>
        <translation>Kanäle der Reihe nach</translation>
    </message>
    <message>
        <source>Bands in order</source>
        <translation>Kanäle der Reihe nach</translation>
    </message>
    <message>
        <source>bands</source>
        <translation>Kanäle</translation>
    </message>
    <message>
        <source>Weights of the bands</source>
        <translation>Gewichte der Kanäle</translation>
    </message>
    <message>
        <source>as the eye sees, or equal</source>
        <translation>wie das Auge sieht, oder gleich</translation>
    </message>
    <message>
        <source>weights</source>
        <translation>Gewichte</translation>
    </message>
    <message>
        <source>What is wrong with the numbers</source>
        <translation>Was an den Zahlen falsch ist</translation>
    </message>
    <message>
        <source>%1 of %2 bands, in this order, as they are.</source>
        <translation>%1 von %2 Kanälen, in dieser Reihenfolge, wie sie sind.</translation>
    </message>
    <message>
        <source>One band: 0.2126 red, 0.7152 green, 0.0722 blue, as the eye weighs them (BT.709).</source>
        <translation>Ein Kanal: 0,2126 Rot, 0,7152 Grün, 0,0722 Blau, wie das Auge sie gewichtet (BT.709).</translation>
    </message>
    <message>
        <source>One band, from all %1 with their weights.</source>
        <translation>Ein Kanal, aus allen %1 mit ihren Gewichten.</translation>
    </message>
    <message>
        <source>From a ruler</source>
        <translation>Von einem Maßstab</translation>
    </message>
    <message>
        <source>From line to line</source>
        <translation>Von Strich zu Strich</translation>
    </message>
    <message>
        <source>Unit of the spacing</source>
        <translation>Einheit des Abstands</translation>
    </message>
    <message>
        <source>line to line</source>
        <translation>Strich zu Strich</translation>
    </message>
    <message>
        <source>Find its lines…</source>
        <translation>Striche suchen …</translation>
    </message>
    <message>
        <source>Drag along a ruler, across its lines: all of them are found and give the pixel size</source>
        <translation>Einen Maßstab entlang ziehen, quer zu den Strichen: Alle werden gefunden und geben die Pixelgröße</translation>
    </message>
    <message>
        <source>What the lines say</source>
        <translation>Was die Striche sagen</translation>
    </message>
    <message>
        <source>Drag along the ruler, across its lines, from the first to the last. Escape leaves it.</source>
        <translation>Den Maßstab entlang ziehen, quer zu seinen Strichen, vom ersten zum letzten. Esc verlässt.</translation>
    </message>
    <message>
        <source>Library of pixel sizes</source>
        <translation>Sammlung der Pixelgrößen</translation>
    </message>
    <message>
        <source>Use the proposed calibration</source>
        <translation>Die vorgeschlagene Kalibrierung verwenden</translation>
    </message>
    <message>
        <source>The file says no pixel size, and this one was made for pictures of this size</source>
        <translation>Die Datei nennt keine Pixelgröße, und diese wurde für Bilder dieser Größe gemacht</translation>
    </message>
    <message>
        <source>Calibrations in the library</source>
        <translation>Kalibrierungen der Sammlung</translation>
    </message>
    <message>
        <source>Use</source>
        <translation>Verwenden</translation>
    </message>
    <message>
        <source>Use the calibration of the library</source>
        <translation>Die Kalibrierung der Sammlung verwenden</translation>
    </message>
    <message>
        <source>Name in the library</source>
        <translation>Name in der Sammlung</translation>
    </message>
    <message>
        <source>name, such as the lens</source>
        <translation>Name, etwa das Objektiv</translation>
    </message>
    <message>
        <source>Keep</source>
        <translation>Behalten</translation>
    </message>
    <message>
        <source>Keep this pixel size in the library</source>
        <translation>Diese Pixelgröße in der Sammlung behalten</translation>
    </message>
    <message>
        <source>What the library says</source>
        <translation>Was die Sammlung sagt</translation>
    </message>
    <message>
        <source>Whether the calibration fits</source>
        <translation>Ob die Kalibrierung passt</translation>
    </message>
    <message>
        <source>Use “%1”, made for this size</source>
        <translation>„%1“ verwenden, für diese Größe gemacht</translation>
    </message>
    <message>
        <source>Looking for the lines</source>
        <translation>Striche werden gesucht</translation>
    </message>
    <message>
        <source>from %1 lines of a ruler</source>
        <translation>aus %1 Strichen eines Maßstabs</translation>
    </message>
    <message>
        <source>pixel size from a ruler</source>
        <translation>Pixelgröße aus einem Maßstab</translation>
    </message>
    <message>
        <source>%1 lines, %2 px apart, at %3°; they lie within %4 px (RMS) of even spacing.</source>
        <translation>%1 Striche, %2 px auseinander, bei %3°; sie liegen innerhalb von %4 px (RMS) gleicher Abstände.</translation>
    </message>
    <message>
        <source> %1 between them are hidden.</source>
        <translation> %1 dazwischen sind verdeckt.</translation>
    </message>
    <message>
        <source> Their spacing changes by %1 % along the ruler: it was tilted, or the lens bends. Rectify the picture to measure on it.</source>
        <translation> Ihr Abstand ändert sich entlang des Maßstabs um %1 %: Er war geneigt, oder das Objektiv verzeichnet. Entzerren Sie das Bild, um darin zu messen.</translation>
    </message>
    <message>
        <source>empty</source>
        <translation>leer</translation>
    </message>
    <message>
        <source>pixel size from the library</source>
        <translation>Pixelgröße aus der Sammlung</translation>
    </message>
    <message>
        <source>Kept as “%1”, for pictures of %2 × %3 px.</source>
        <translation>Behalten als „%1“, für Bilder von %2 × %3 px.</translation>
    </message>
    <message>
        <source>the marks&apos; style</source>
        <translation>das Aussehen der Marken</translation>
    </message>
    <message>
        <source>The kernel, row by row</source>
        <translation>Der Kern, Zeile für Zeile</translation>
    </message>
    <message>
        <source>Kernels</source>
        <translation>Kerne</translation>
    </message>
    <message>
        <source>Kernel</source>
        <translation>Kern</translation>
    </message>
    <message>
        <source>What is wrong with the kernel</source>
        <translation>Was am Kern falsch ist</translation>
    </message>
    <message>
        <source>times</source>
        <translation>mal</translation>
    </message>
    <message>
        <source>plus</source>
        <translation>plus</translation>
    </message>
    <message>
        <source>grey levels</source>
        <translation>Grauwerte</translation>
    </message>
    <message>
        <source>depth</source>
        <translation>Tiefe</translation>
    </message>
    <message>
        <source>as it comes</source>
        <translation>wie sie kommt</translation>
    </message>
    <message>
        <source>8-bit</source>
        <translation>8 Bit</translation>
    </message>
    <message>
        <source>16-bit</source>
        <translation>16 Bit</translation>
    </message>
    <message>
        <source>float</source>
        <translation>Gleitkomma</translation>
    </message>
    <message>
        <source>Row %1 has %2, the first has %3: rows are to be of one length.</source>
        <translation>Zeile %1 hat %2, die erste %3: Alle Zeilen müssen gleich lang sein.</translation>
    </message>
    <message>
        <source>A kernel has at most 101 rows and columns.</source>
        <translation>Ein Kern hat höchstens 101 Zeilen und Spalten.</translation>
    </message>
    <message>
        <source>A kernel of zeros leaves nothing of the picture. Give at least one number that is not 0.</source>
        <translation>Ein Kern aus Nullen lässt nichts vom Bild. Geben Sie mindestens eine Zahl an, die nicht 0 ist.</translation>
    </message>
    <message>
        <source>The numbers sum to %1, times %2 = %3.</source>
        <translation>Die Zahlen ergeben zusammen %1, mal %2 = %3.</translation>
    </message>
    <message>
        <source>From samples of 0 to %1 it makes %2 to %3.</source>
        <translation>Aus Werten von 0 bis %1 macht er %2 bis %3.</translation>
    </message>
    <message>
        <source>%1 holds 0 to %2: what is beyond is clamped. Choose float to keep it.</source>
        <translation>%1 fasst 0 bis %2: Was darüber liegt, wird begrenzt. Wählen Sie Gleitkomma, um es zu behalten.</translation>
    </message>
    <message>
        <source>An even kernel&apos;s middle lies between pixels; coordinates follow it by half a pixel.</source>
        <translation>Die Mitte eines geraden Kerns liegt zwischen Pixeln; Koordinaten folgen ihr um ein halbes Pixel.</translation>
    </message>
    <message>
        <source>What to keep</source>
        <translation>Was bleibt</translation>
    </message>
    <message>
        <source>numbers</source>
        <translation>Zahlen</translation>
    </message>
    <message>
        <source>ratio</source>
        <translation>Verhältnis</translation>
    </message>
    <message>
        <source>no gaps</source>
        <translation>keine Lücken</translation>
    </message>
    <message>
        <source>Crop %1</source>
        <translation>Zuschnitt %1</translation>
    </message>
    <message>
        <source>First and last pixel</source>
        <translation>Erstes und letztes Pixel</translation>
    </message>
    <message>
        <source>Ratio across</source>
        <translation>Verhältnis quer</translation>
    </message>
    <message>
        <source>Ratio down</source>
        <translation>Verhältnis hoch</translation>
    </message>
    <message>
        <source>Where the crop is held</source>
        <translation>Wo der Zuschnitt gehalten wird</translation>
    </message>
    <message>
        <source>across : down</source>
        <translation>quer : hoch</translation>
    </message>
    <message>
        <source>held at</source>
        <translation>gehalten</translation>
    </message>
    <message>
        <source>columns %1 to %2, rows %3 to %4, counted from 1</source>
        <translation>Spalten %1 bis %2, Zeilen %3 bis %4, ab 1 gezählt</translation>
    </message>
    <message>
        <source>off the pixel grid: the picture is resampled</source>
        <translation>neben dem Pixelraster: Das Bild wird interpoliert</translation>
    </message>
    <message>
        <source>%1 × %2 px are kept. %3 Coordinates trace back to the source: the rail shows both.</source>
        <translation>%1 × %2 px bleiben. %3 Koordinaten führen zur Quelle zurück: Die Leiste zeigt beide.</translation>
    </message>
    <message>
        <source>Pixels are moved bit for bit.</source>
        <translation>Pixel werden Bit für Bit verschoben.</translation>
    </message>
    <message>
        <source>Pixels are resampled, with all geometry of the chain, once.</source>
        <translation>Pixel werden, mit aller Geometrie der Kette, einmal interpoliert.</translation>
    </message>
    <message>
        <source>crop</source>
        <translation>Zuschnitt</translation>
    </message>
    <message>
        <source>Take from the surroundings</source>
        <translation>Aus der Umgebung nehmen</translation>
    </message>
    <message>
        <source>Method</source>
        <translation>Verfahren</translation>
    </message>
    <message>
        <source>Gaussian</source>
        <translation>Gauß</translation>
    </message>
    <message>
        <source>radius</source>
        <translation>Radius</translation>
    </message>
    <message>
        <source>Each sample is the middle one of %1 × %1. Single outliers vanish, edges stay; things smaller than about %2 px vanish, too.</source>
        <translation>Jeder Wert ist der mittlere von %1 × %1. Einzelne Ausreißer verschwinden, Kanten bleiben; auch was kleiner als etwa %2 px ist, verschwindet.</translation>
    </message>
    <message>
        <source>A Gaussian with a standard deviation of %1 px: noise goes down to about %2 %, and detail with it.</source>
        <translation>Gauß mit einer Standardabweichung von %1 px: Rauschen sinkt auf etwa %2 %, Einzelheiten mit ihm.</translation>
    </message>
    <message>
        <source>Line between A and B</source>
        <translation>Linie zwischen A und B</translation>
    </message>
    <message>
        <source>The left and right arrow keys move it</source>
        <translation>Die Pfeiltasten links und rechts verschieben sie</translation>
    </message>
    <message>
        <source>add %1</source>
        <translation>%1 hinzufügen</translation>
    </message>
    <message>
        <source>remove %1</source>
        <translation>%1 entfernen</translation>
    </message>
    <message>
        <source>rename %1</source>
        <translation>%1 umbenennen</translation>
    </message>
    <message>
        <source>paste</source>
        <translation>einfügen</translation>
    </message>
    <message>
        <source>remove %1 measurements</source>
        <translation>%1 Messungen entfernen</translation>
    </message>
    <message>
        <source>change a mask</source>
        <translation>eine Maske ändern</translation>
    </message>
    <message>
        <source>remove a mask</source>
        <translation>eine Maske entfernen</translation>
    </message>
    <message>
        <source>add a mark</source>
        <translation>eine Marke hinzufügen</translation>
    </message>
    <message>
        <source>change a mark</source>
        <translation>eine Marke ändern</translation>
    </message>
    <message>
        <source>remove a mark</source>
        <translation>eine Marke entfernen</translation>
    </message>
    <message>
        <source>move flag B</source>
        <translation>Flagge B versetzen</translation>
    </message>
    <message>
        <source>move flag A</source>
        <translation>Flagge A versetzen</translation>
    </message>
    <message>
        <source>Blocks</source>
        <translation>Blöcke</translation>
    </message>
    <message>
        <source>columns</source>
        <translation>Spalten</translation>
    </message>
    <message>
        <source>to one</source>
        <translation>zu einer</translation>
    </message>
    <message>
        <source>rows</source>
        <translation>Zeilen</translation>
    </message>
    <message>
        <source>take the</source>
        <translation>nimm</translation>
    </message>
    <message>
        <source>What does not fill a block</source>
        <translation>Was keinen Block füllt</translation>
    </message>
    <message>
        <source>Remainder</source>
        <translation>Rest</translation>
    </message>
    <message>
        <source>is dropped</source>
        <translation>fällt weg</translation>
    </message>
    <message>
        <source>counts too</source>
        <translation>zählt auch</translation>
    </message>
    <message>
        <source>Blocks of one pixel change nothing yet.</source>
        <translation>Blöcke von einem Pixel ändern noch nichts.</translation>
    </message>
    <message>
        <source>1 column at the right</source>
        <translation>1 Spalte rechts</translation>
    </message>
    <message>
        <source>%1 columns at the right</source>
        <translation>%1 Spalten rechts</translation>
    </message>
    <message>
        <source>1 row below</source>
        <translation>1 Zeile unten</translation>
    </message>
    <message>
        <source>%1 rows below</source>
        <translation>%1 Zeilen unten</translation>
    </message>
    <message>
        <source>%1 became %2.</source>
        <translation>%1 wurde %2.</translation>
    </message>
    <message>
        <source>The last column and the last row stand for fewer pixels.</source>
        <translation>Die letzte Spalte und die letzte Zeile stehen für weniger Pixel.</translation>
    </message>
    <message>
        <source>The last column stands for fewer pixels.</source>
        <translation>Die letzte Spalte steht für weniger Pixel.</translation>
    </message>
    <message>
        <source>The last row stands for fewer pixels.</source>
        <translation>Die letzte Zeile steht für weniger Pixel.</translation>
    </message>
    <message>
        <source>%1 does not fill a block, and is left out.</source>
        <translation>%1 füllt keinen Block und bleibt weg.</translation>
    </message>
    <message>
        <source>%1 do not fill a block, and are left out.</source>
        <translation>%1 füllen keinen Block und bleiben weg.</translation>
    </message>
    <message>
        <source> and </source>
        <translation> und </translation>
    </message>
    <message>
        <source>Samples are taken as they are; fine patterns may show as coarse ones.</source>
        <translation>Werte werden genommen, wie sie sind; feine Muster können als grobe erscheinen.</translation>
    </message>
    <message>
        <source>Each pixel is worked out from the %1 pixels of its block.</source>
        <translation>Jedes Pixel wird aus den %1 Pixeln seines Blocks berechnet.</translation>
    </message>
    <message>
        <source>The model</source>
        <translation>Das Modell</translation>
    </message>
    <message>
        <source>exclude outliers</source>
        <translation>Ausreißer ausschließen</translation>
    </message>
    <message>
        <source>The reference</source>
        <translation>Das Bezugsbild</translation>
    </message>
    <message>
        <source>Reference</source>
        <translation>Bezugsbild</translation>
    </message>
    <message>
        <source>Open a reference…</source>
        <translation>Bezugsbild öffnen …</translation>
    </message>
    <message>
        <source>The picture, plan or map that the points belong on</source>
        <translation>Das Bild, der Plan oder die Karte, auf die die Punkte gehören</translation>
    </message>
    <message>
        <source>place pairs</source>
        <translation>Paare setzen</translation>
    </message>
    <message>
        <source>compare</source>
        <translation>vergleichen</translation>
    </message>
    <message>
        <source>Propose 30 pairs</source>
        <translation>30 Paare vorschlagen</translation>
    </message>
    <message>
        <source>Find places that both pictures show, and match each</source>
        <translation>Stellen suchen, die beide Bilder zeigen, und jede zuordnen</translation>
    </message>
    <message>
        <source>Refine by matching</source>
        <translation>Durch Zuordnen verfeinern</translation>
    </message>
    <message>
        <source>Move the targets to what the reference shows of their places; a pair that cannot be matched stays</source>
        <translation>Verschiebt die Ziele dorthin, wo das Bezugsbild ihre Stellen zeigt; ein Paar, das sich nicht zuordnen lässt, bleibt</translation>
    </message>
    <message>
        <source>Take the reference&apos;s frame</source>
        <translation>Rahmen des Bezugsbilds übernehmen</translation>
    </message>
    <message>
        <source>Size and pixel size of the result, so that it lies on the reference pixel by pixel</source>
        <translation>Größe und Pixelgröße des Ergebnisses, damit es Pixel für Pixel auf dem Bezugsbild liegt</translation>
    </message>
    <message>
        <source>The pairs</source>
        <translation>Die Paare</translation>
    </message>
    <message>
        <source>Paste pairs</source>
        <translation>Paare einfügen</translation>
    </message>
    <message>
        <source>Rows of from x, from y, to x, to y, and a name if there is one</source>
        <translation>Zeilen von x, y, nach x, y, und ein Name, wenn es einen gibt</translation>
    </message>
    <message>
        <source>What was pasted</source>
        <translation>Was eingefügt wurde</translation>
    </message>
    <message>
        <source>Typing mistake</source>
        <translation>Tippfehler</translation>
    </message>
    <message>
        <source>Fix the typing mistake</source>
        <translation>Den Tippfehler beheben</translation>
    </message>
    <message>
        <source>Output size</source>
        <translation>Ausgabegröße</translation>
    </message>
    <message>
        <source>None: targets are typed, pasted or dragged on the result.</source>
        <translation>Keines: Ziele werden eingetippt, eingefügt oder auf dem Ergebnis gezogen.</translation>
    </message>
    <message>
        <source>%1 is not open.</source>
        <translation>%1 ist nicht offen.</translation>
    </message>
    <message>
        <source>%1, %2</source>
        <translation>%1, %2</translation>
    </message>
    <message>
        <source>, %1 %2 a pixel</source>
        <translation>, %1 %2 je Pixel</translation>
    </message>
    <message>
        <source>Line %1 has no four numbers.</source>
        <translation>Zeile %1 hat keine vier Zahlen.</translation>
    </message>
    <message>
        <source>The clipboard holds no pairs: rows of from x, from y, to x, to y.</source>
        <translation>Die Zwischenablage hat keine Paare: Zeilen von x, y, nach x, y.</translation>
    </message>
    <message>
        <source>%1 pairs.</source>
        <translation>%1 Paare.</translation>
    </message>
    <message>
        <source>%1 pairs, %2 px RMS off (%3).</source>
        <translation>%1 Paare, %2 px RMS daneben (%3).</translation>
    </message>
    <message>
        <source>They scatter %1 times as far as their uncertainties say.</source>
        <translation>Sie streuen %1-mal so weit, wie ihre Unsicherheiten sagen.</translation>
    </message>
    <message>
        <source>They scatter by %1 px along each axis.</source>
        <translation>Sie streuen um %1 px entlang jeder Achse.</translation>
    </message>
    <message>
        <source>Corners of the picture are known to ± %1 px of the result, with pairs as uncertain as they say.</source>
        <translation>Ecken des Bildes sind auf ± %1 px des Ergebnisses bekannt, mit so unsicheren Paaren, wie sie sagen.</translation>
    </message>
    <message>
        <source>Corners of the picture are known to ± %1 px of the result, with pairs placed to ± %2 px.</source>
        <translation>Ecken des Bildes sind auf ± %1 px des Ergebnisses bekannt, mit Paaren, die auf ± %2 px gesetzt sind.</translation>
    </message>
    <message>
        <source>That is much less than they scatter: the model is too simple for these pairs, or they were placed worse.</source>
        <translation>Das ist viel weniger, als sie streuen: Das Modell ist für diese Paare zu einfach, oder sie wurden schlechter gesetzt.</translation>
    </message>
    <message>
        <source>%1 counts for nothing: it disagrees with the rest.</source>
        <translation>%1 zählt nichts: Es widerspricht den übrigen.</translation>
    </message>
    <message>
        <source>%1 count for nothing: they disagree with the rest.</source>
        <translation>%1 zählen nichts: Sie widersprechen den übrigen.</translation>
    </message>
    <message>
        <source>Pairs %1 and %2 begin at the same place: they count twice there.</source>
        <translation>Die Paare %1 und %2 beginnen an derselben Stelle: Dort zählen sie doppelt.</translation>
    </message>
    <message>
        <source>The transform goes through all pairs, so nothing checks it: more pairs would.</source>
        <translation>Die Transformation geht durch alle Paare, nichts prüft sie: Mehr Paare würden es.</translation>
    </message>
    <message>
        <source>Window sizes</source>
        <translation>Fenstergrößen</translation>
    </message>
    <message>
        <source>Sides of the windows in px, from large to small: a pass each. The first is at least four times the largest movement</source>
        <translation>Seiten der Fenster in px, von groß nach klein: je ein Durchgang. Das erste ist mindestens viermal die größte Bewegung</translation>
    </message>
    <message>
        <source>windows, px</source>
        <translation>Fenster, px</translation>
    </message>
    <message>
        <source>What is wrong with the window sizes</source>
        <translation>Was an den Fenstergrößen falsch ist</translation>
    </message>
    <message>
        <source>windows</source>
        <translation>Fenster</translation>
    </message>
    <message>
        <source>Passes on deformed frames</source>
        <translation>Durchgänge auf verformten Bildern</translation>
    </message>
    <message>
        <source>At the last size, with frames that are deformed by what is known: follows slopes, and costs some noise each; 0 shifts the windows alone</source>
        <translation>Bei der letzten Größe, mit Bildern, die nach dem Bekannten verformt sind: folgt Steigungen und kostet jeweils etwas Rauschen; 0 verschiebt nur die Fenster</translation>
    </message>
    <message>
        <source>deformed passes</source>
        <translation>verformte Durchgänge</translation>
    </message>
    <message>
        <source>passes</source>
        <translation>Durchgänge</translation>
    </message>
    <message>
        <source>robust: products of shifted windows</source>
        <translation>robust: Produkte verschobener Fenster</translation>
    </message>
    <message>
        <source>A peak counts where shifted windows show it, too: for poor pictures, at five times the time</source>
        <translation>Ein Gipfel zählt, wo ihn auch verschobene Fenster zeigen: für schlechte Bilder, in fünffacher Zeit</translation>
    </message>
    <message>
        <source>all pairs as one: a steady flow</source>
        <translation>alle Paare als eines: eine stetige Strömung</translation>
    </message>
    <message>
        <source>Correlations of all pairs are added up before the peak is sought: for few grains</source>
        <translation>Korrelationen aller Paare werden addiert, bevor der Gipfel gesucht wird: für wenige Teilchen</translation>
    </message>
    <message>
        <source>Set the windows by the grains</source>
        <translation>Fenster nach den Teilchen setzen</translation>
    </message>
    <message>
        <source>nothing</source>
        <translation>nichts</translation>
    </message>
    <message>
        <source>What stands still over all frames is taken off before they are matched; the frames stay</source>
        <translation>Was in allen Bildern stillsteht, wird vor der Zuordnung abgezogen; die Bilder bleiben</translation>
    </message>
    <message>
        <source>take off</source>
        <translation>abziehen</translation>
    </message>
    <message>
        <source>background</source>
        <translation>Hintergrund</translation>
    </message>
    <message>
        <source>a and b have a background each</source>
        <translation>a und b haben je einen Hintergrund</translation>
    </message>
    <message>
        <source>show the background</source>
        <translation>Hintergrund zeigen</translation>
    </message>
    <message>
        <source>show the mean of all pairs</source>
        <translation>Mittel aller Paare zeigen</translation>
    </message>
    <message>
        <source>Flow through a line…</source>
        <translation>Durchfluss durch eine Linie …</translation>
    </message>
    <message>
        <source>Click corners of the line; Return or a double click ends it</source>
        <translation>Ecken der Linie anklicken; Eingabe oder Doppelklick beendet</translation>
    </message>
    <message>
        <source>Circulation…</source>
        <translation>Zirkulation …</translation>
    </message>
    <message>
        <source>Click corners of the polygon; Return or a double click closes it</source>
        <translation>Ecken des Vielecks anklicken; Eingabe oder Doppelklick schließt</translation>
    </message>
    <message>
        <source>Flow through lines</source>
        <translation>Durchfluss durch Linien</translation>
    </message>
    <message>
        <source>Frames</source>
        <translation>Bilder</translation>
    </message>
    <message>
        <source>Channel</source>
        <translation>Kanal</translation>
    </message>
    <message>
        <source>Which channel is shown and matched; the others can go with it (Frames, Carry)</source>
        <translation>Welcher Kanal gezeigt und zugeordnet wird; die anderen können mitgehen (Bilder, Mitnehmen)</translation>
    </message>
    <message>
        <source>Plane of the depth</source>
        <translation>Ebene der Tiefe</translation>
    </message>
    <message>
        <source>Which plane is shown and matched; the others can go with it (Frames, Carry)</source>
        <translation>Welche Ebene gezeigt und zugeordnet wird; die anderen können mitgehen (Bilder, Mitnehmen)</translation>
    </message>
    <message>
        <source>Play</source>
        <translation>Abspielen</translation>
    </message>
    <message>
        <source>Play the frames</source>
        <translation>Die Bilder abspielen</translation>
    </message>
    <message>
        <source>One frame after the other (F8)</source>
        <translation>Ein Bild nach dem anderen (F8)</translation>
    </message>
    <message>
        <source>Frames a second</source>
        <translation>Bilder je Sekunde</translation>
    </message>
    <message>
        <source>%1 / s</source>
        <translation>%1 / s</translation>
    </message>
    <message>
        <source>leave a frame out</source>
        <translation>ein Bild weglassen</translation>
    </message>
    <message>
        <source>take a frame in</source>
        <translation>ein Bild aufnehmen</translation>
    </message>
    <message>
        <source>Stop</source>
        <translation>Anhalten</translation>
    </message>
    <message>
        <source>choose channel and plane</source>
        <translation>Kanal und Ebene wählen</translation>
    </message>
    <message>
        <source>all channels</source>
        <translation>alle Kanäle</translation>
    </message>
    <message>
        <source>channel %1</source>
        <translation>Kanal %1</translation>
    </message>
    <message>
        <source>all planes</source>
        <translation>alle Ebenen</translation>
    </message>
    <message>
        <source>plane %1, %2</source>
        <translation>Ebene %1, %2</translation>
    </message>
    <message>
        <source>plane %1</source>
        <translation>Ebene %1</translation>
    </message>
    <message>
        <source>%1 pairs</source>
        <translation>%1 Paare</translation>
    </message>
    <message>
        <source>%1 pairs and a frame</source>
        <translation>%1 Paare und ein Bild</translation>
    </message>
    <message>
        <source>%1 frames</source>
        <translation>%1 Bilder</translation>
    </message>
    <message>
        <source>%1, %2 %3 apart</source>
        <translation>%1, alle %2 %3</translation>
    </message>
    <message>
        <source>
✓ by hand</source>
        <translation>
✓ von Hand</translation>
    </message>
    <message>
        <source>
✕ not matched</source>
        <translation>
✕ nicht zugeordnet</translation>
    </message>
    <message>
        <source>
~ weak, %1</source>
        <translation>
~ schwach, %1</translation>
    </message>
    <message>
        <source>
? ambiguous, %1</source>
        <translation>
? mehrdeutig, %1</translation>
    </message>
    <message>
        <source>
✓ %1</source>
        <translation>
✓ %1</translation>
    </message>
    <message>
        <source>
✕ unreadable</source>
        <translation>
✕ unlesbar</translation>
    </message>
    <message>
        <source>left out</source>
        <translation>weg</translation>
    </message>
    <message>
        <source>What each frame did</source>
        <translation>Was jedes Bild tat</translation>
    </message>
    <message>
        <source>Drift: how far each frame lies from the reference</source>
        <translation>Drift: wie weit jedes Bild vom Bezugsbild liegt</translation>
    </message>
    <message>
        <source>x</source>
        <translation>x</translation>
    </message>
    <message>
        <source>shift, px</source>
        <translation>Verschiebung, px</translation>
    </message>
    <message>
        <source>%1 matched</source>
        <translation>%1 zugeordnet</translation>
    </message>
    <message>
        <source>, %1 weak</source>
        <translation>, %1 schwach</translation>
    </message>
    <message>
        <source>, %1 ambiguous</source>
        <translation>, %1 mehrdeutig</translation>
    </message>
    <message>
        <source>, %1 not matched</source>
        <translation>, %1 nicht zugeordnet</translation>
    </message>
    <message>
        <source>time, %1</source>
        <translation>Zeit, %1</translation>
    </message>
    <message>
        <source>x, px</source>
        <translation>x, px</translation>
    </message>
    <message>
        <source>y, px</source>
        <translation>y, px</translation>
    </message>
    <message>
        <source>angle, °</source>
        <translation>Winkel, °</translation>
    </message>
    <message>
        <source>scale</source>
        <translation>Maßstab</translation>
    </message>
    <message>
        <source>score</source>
        <translation>Güte</translation>
    </message>
    <message>
        <source>± px</source>
        <translation>± px</translation>
    </message>
    <message>
        <source>match</source>
        <translation>Zuordnung</translation>
    </message>
    <message>
        <source>not yet</source>
        <translation>noch nicht</translation>
    </message>
    <message>
        <source>by hand</source>
        <translation>von Hand</translation>
    </message>
    <message>
        <source>weak: %1</source>
        <translation>schwach: %1</translation>
    </message>
    <message>
        <source>ambiguous: %1</source>
        <translation>mehrdeutig: %1</translation>
    </message>
    <message>
        <source>not matched: %1</source>
        <translation>nicht zugeordnet: %1</translation>
    </message>
    <message>
        <source>From a grid: perspective and lens</source>
        <translation>Aus einem Gitter</translation>
    </message>
    <message>
        <source>From node to node</source>
        <translation>Von Knoten zu Knoten</translation>
    </message>
    <message>
        <source>Unit of the grid</source>
        <translation>Einheit des Gitters</translation>
    </message>
    <message>
        <source>node to node</source>
        <translation>Knoten zu Knoten</translation>
    </message>
    <message>
        <source>Find the grid, and lay it square</source>
        <translation>Gitter suchen und gerade legen</translation>
    </message>
    <message>
        <source>A checkerboard, dots or crossed lines of one pitch, seen at any angle: two steps undo the lens and the perspective</source>
        <translation>Ein Schachbrett, Punkte oder gekreuzte Linien mit einem Abstand, aus jedem Winkel gesehen: Zwei Schritte heben Objektiv und Perspektive auf</translation>
    </message>
    <message>
        <source>Name of the lens</source>
        <translation>Name des Objektivs</translation>
    </message>
    <message>
        <source>name of the lens</source>
        <translation>Name des Objektivs</translation>
    </message>
    <message>
        <source>Lens from all frames</source>
        <translation>Objektiv aus allen Bildern</translation>
    </message>
    <message>
        <source>Three views of one grid or more, tilted to different sides: focal length, centre and distortion, kept in the library by this name</source>
        <translation>Drei oder mehr Ansichten eines Gitters, zu verschiedenen Seiten gekippt: Brennweite, Mitte und Verzeichnung, unter diesem Namen in der Sammlung behalten</translation>
    </message>
    <message>
        <source>Looking for the grid in each frame… %1 %</source>
        <translation>Das Gitter wird in jedem Bild gesucht … %1 %</translation>
    </message>
    <message>
        <source>What the grid says</source>
        <translation>Was das Gitter sagt</translation>
    </message>
    <message>
        <source>Stopped.</source>
        <translation>Angehalten.</translation>
    </message>
    <message>
        <source>Stop looking</source>
        <translation>Suche anhalten</translation>
    </message>
    <message>
        <source>Looking for a grid…</source>
        <translation>Ein Gitter wird gesucht …</translation>
    </message>
    <message>
        <source>lay the grid square</source>
        <translation>das Gitter gerade legen</translation>
    </message>
    <message>
        <source>%1: %2 nodes of %3 × %4, within %5 px (RMS). </source>
        <translation>%1: %2 Knoten von %3 × %4, innerhalb von %5 px (RMS). </translation>
    </message>
    <message>
        <source>No distortion is to be seen; one step lays the grid square.</source>
        <translation>Keine Verzeichnung ist zu sehen; ein Schritt legt das Gitter gerade.</translation>
    </message>
    <message>
        <source>Two steps undo the lens (k1 %1) and lay the grid square.</source>
        <translation>Zwei Schritte heben das Objektiv auf (k1 %1) und legen das Gitter gerade.</translation>
    </message>
    <message>
        <source>Looking for the grid in each frame…</source>
        <translation>Das Gitter wird in jedem Bild gesucht …</translation>
    </message>
    <message>
        <source>Kept as “%1”: focal length %2 ± %3 px, centre %4, %5 ± %6 px, from %7 nodes in %8 views, within %9 px (RMS). The step Lens takes it over.</source>
        <translation>Behalten als „%1“: Brennweite %2 ± %3 px, Mitte %4, %5 ± %6 px, aus %7 Knoten in %8 Ansichten, innerhalb von %9 px (RMS). Der Schritt Objektiv übernimmt es.</translation>
    </message>
    <message>
        <source> No grid was found in frame %1.</source>
        <translation> In Bild %1 wurde kein Gitter gefunden.</translation>
    </message>
    <message>
        <source>Guide</source>
        <translation>Anleitung</translation>
    </message>
    <message>
        <source>Search the guide</source>
        <translation>In der Anleitung suchen</translation>
    </message>
    <message>
        <source>Search the guide; Return finds the next place</source>
        <translation>In der Anleitung suchen; Eingabe findet die nächste Stelle</translation>
    </message>
    <message>
        <source>Chapters</source>
        <translation>Kapitel</translation>
    </message>
    <message>
        <source>The guide</source>
        <translation>Die Anleitung</translation>
    </message>
    <message>
        <source>The guide does not say that.</source>
        <translation>Das sagt die Anleitung nicht.</translation>
    </message>
    <message>
        <source>Keep what changes within</source>
        <translation>Feines behalten bis</translation>
    </message>
    <message>
        <source>What changes over more than about %1 px is taken away%2. Half of the contrast is left of waves %3 px long.</source>
        <translation>Was sich über mehr als etwa %1 px ändert, fällt weg%2. Von Wellen mit %3 px Länge bleibt der halbe Kontrast.</translation>
    </message>
    <message>
        <source>; the middle grey stands for nothing left</source>
        <translation>; mittleres Grau steht für nichts</translation>
    </message>
    <message>
        <source>Inspector</source>
        <translation>Inspektor</translation>
    </message>
    <message>
        <source>What the page is of</source>
        <translation>Wovon die Seite ist</translation>
    </message>
    <message>
        <source>on</source>
        <translation>ein</translation>
    </message>
    <message>
        <source>Step is on</source>
        <translation>Schritt ist ein</translation>
    </message>
    <message>
        <source>Switch this step on or off</source>
        <translation>Diesen Schritt ein- oder ausschalten</translation>
    </message>
    <message>
        <source>switch on</source>
        <translation>einschalten</translation>
    </message>
    <message>
        <source>switch off</source>
        <translation>ausschalten</translation>
    </message>
    <message>
        <source>What is wrong</source>
        <translation>Was falsch ist</translation>
    </message>
    <message>
        <source>Fix it</source>
        <translation>Beheben</translation>
    </message>
    <message>
        <source>fix</source>
        <translation>beheben</translation>
    </message>
    <message>
        <source>Begin again with values that work</source>
        <translation>Neu beginnen, mit Werten, die gehen</translation>
    </message>
    <message>
        <source>Move it into the picture</source>
        <translation>In das Bild schieben</translation>
    </message>
    <message>
        <source>The step is left out until this is fixed.</source>
        <translation>Der Schritt wird ausgelassen, bis das behoben ist.</translation>
    </message>
    <message>
        <source>Check</source>
        <translation>Prüfen</translation>
    </message>
    <message>
        <source>%1 (%2)</source>
        <translation>%1 (%2)</translation>
    </message>
    <message>
        <source>height</source>
        <translation>Höhe</translation>
    </message>
    <message>
        <source>%1 × %2 px</source>
        <translation>%1 × %2 px</translation>
    </message>
    <message>
        <source>The picture&apos;s middle</source>
        <translation>Die Bildmitte</translation>
    </message>
    <message>
        <source>Measurements in short</source>
        <translation>Messungen in Kürze</translation>
    </message>
    <message>
        <source>add</source>
        <translation>neu</translation>
    </message>
    <message>
        <source>remove</source>
        <translation>löschen</translation>
    </message>
    <message>
        <source>snap to edges</source>
        <translation>einrasten</translation>
    </message>
    <message>
        <source>Move the points of the selected measurement to the edges and corners near them (Q)</source>
        <translation>Die Punkte der gewählten Messung an Kanten und Ecken in ihrer Nähe schieben (Q)</translation>
    </message>
    <message>
        <source>load set…</source>
        <translation>Satz laden …</translation>
    </message>
    <message>
        <source>save set…</source>
        <translation>Satz sichern …</translation>
    </message>
    <message>
        <source>Lay the measurements of a file, or of a chain, on this picture</source>
        <translation>Die Messungen einer Datei oder Kette auf dieses Bild legen</translation>
    </message>
    <message>
        <source>Keep these measurements as a set for other pictures</source>
        <translation>Diese Messungen als Satz für andere Bilder behalten</translation>
    </message>
    <message>
        <source>copy as CSV</source>
        <translation>CSV kopieren</translation>
    </message>
    <message>
        <source>fold</source>
        <translation>zu</translation>
    </message>
    <message>
        <source>unfold</source>
        <translation>auf</translation>
    </message>
    <message>
        <source>%1 to %2</source>
        <translation>%1 bis %2</translation>
    </message>
    <message>
        <source>± for points placed to %1 px</source>
        <translation>± für Punkte auf %1 px</translation>
    </message>
    <message>
        <source>%1; zoom in to place the points of “%2” better</source>
        <translation>%1; vergrößern, um die Punkte von „%2“ besser zu setzen</translation>
    </message>
    <message>
        <source>%1 selected, of different units</source>
        <translation>%1 gewählt, mit verschiedenen Einheiten</translation>
    </message>
    <message>
        <source>%1 selected at B: mean %2, standard deviation %3, %4 to %5 %6</source>
        <translation>%1 gewählt bei B: Mittel %2, Standardabweichung %3, %4 bis %5 %6</translation>
    </message>
    <message>
        <source>none yet: press G on the picture and drag along a known length</source>
        <translation>noch keine: G auf dem Bild drücken und entlang einer bekannten Länge ziehen</translation>
    </message>
    <message>
        <source>%1 · %2</source>
        <translation>%1 · %2</translation>
    </message>
    <message>
        <source>The lens</source>
        <translation>Das Objektiv</translation>
    </message>
    <message>
        <source>Direction</source>
        <translation>Richtung</translation>
    </message>
    <message>
        <source>undo it</source>
        <translation>aufheben</translation>
    </message>
    <message>
        <source>add it</source>
        <translation>hinzufügen</translation>
    </message>
    <message>
        <source>focal length</source>
        <translation>Brennweite</translation>
    </message>
    <message>
        <source>About</source>
        <translation>Um</translation>
    </message>
    <message>
        <source>From the library</source>
        <translation>Aus der Sammlung</translation>
    </message>
    <message>
        <source>Lenses in the library</source>
        <translation>Objektive der Sammlung</translation>
    </message>
    <message>
        <source>a calibrated lens</source>
        <translation>ein kalibriertes Objektiv</translation>
    </message>
    <message>
        <source>Whether the lens fits</source>
        <translation>Ob das Objektiv passt</translation>
    </message>
    <message>
        <source>Taken over: %1 views, focal length %2 ± %3 px.</source>
        <translation>Übernommen: %1 Ansichten, Brennweite %2 ± %3 px.</translation>
    </message>
    <message>
        <source>It was made for %1 × %2 px, and is scaled to this picture.</source>
        <translation>Es wurde für %1 × %2 px gemacht und ist auf dieses Bild umgerechnet.</translation>
    </message>
    <message>
        <source>It was made for %1 × %2 px, which is another shape: check that the picture is not a cut-out.</source>
        <translation>Es wurde für %1 × %2 px gemacht, eine andere Form: Prüfen Sie, dass das Bild kein Ausschnitt ist.</translation>
    </message>
    <message>
        <source>No term is set, so nothing moves. k1 below zero is a barrel, above zero a cushion.</source>
        <translation>Kein Glied ist gesetzt, nichts bewegt sich. k1 unter null ist eine Tonne, darüber ein Kissen.</translation>
    </message>
    <message>
        <source>Corners move by up to %1 px.</source>
        <translation>Ecken bewegen sich um bis zu %1 px.</translation>
    </message>
    <message>
        <source>The middle of the upper side moves by %1 px.</source>
        <translation>Die Mitte der oberen Seite bewegt sich um %1 px.</translation>
    </message>
    <message>
        <source>How local, how strong</source>
        <translation>Wie örtlich, wie stark</translation>
    </message>
    <message>
        <source>tile</source>
        <translation>Kachel</translation>
    </message>
    <message>
        <source>at most</source>
        <translation>höchstens</translation>
    </message>
    <message>
        <source>times steeper</source>
        <translation>mal so steil</translation>
    </message>
    <message>
        <source>Contrast is even over tiles of %1 px. Grey levels no longer compare across the picture: use it to match and to look, not to measure light.</source>
        <translation>Der Kontrast ist über Kacheln von %1 px gleich. Grauwerte lassen sich über das Bild nicht mehr vergleichen: zum Zuordnen und Ansehen, nicht um Licht zu messen.</translation>
    </message>
    <message>
        <source>Message</source>
        <translation>Meldung</translation>
    </message>
    <message>
        <source>dismiss</source>
        <translation>schließen</translation>
    </message>
    <message>
        <source>R %1  G %2  B %3</source>
        <translation>R %1  G %2  B %3</translation>
    </message>
    <message>
        <source>  in the source</source>
        <translation>  in der Quelle</translation>
    </message>
    <message>
        <source>Value under the pointer</source>
        <translation>Wert unter dem Zeiger</translation>
    </message>
    <message>
        <source>Whether the chain is saved</source>
        <translation>Ob die Kette gespeichert ist</translation>
    </message>
    <message>
        <source>Running task</source>
        <translation>Laufende Arbeit</translation>
    </message>
    <message>
        <source>Progress</source>
        <translation>Fortschritt</translation>
    </message>
    <message>
        <source>cancel</source>
        <translation>abbrechen</translation>
    </message>
    <message>
        <source>%1 %, about %2 s left</source>
        <translation>%1 %, noch etwa %2 s</translation>
    </message>
    <message>
        <source>&amp;Undo: %1</source>
        <translation>&amp;Rückgängig: %1</translation>
    </message>
    <message>
        <source>&amp;Undo</source>
        <translation>&amp;Rückgängig</translation>
    </message>
    <message>
        <source>&amp;Redo: %1</source>
        <translation>&amp;Wiederholen: %1</translation>
    </message>
    <message>
        <source>&amp;Redo</source>
        <translation>&amp;Wiederholen</translation>
    </message>
    <message>
        <source>result: %1</source>
        <translation>Ergebnis: %1</translation>
    </message>
    <message>
        <source>result: pixel size not known</source>
        <translation>Ergebnis: Pixelgröße unbekannt</translation>
    </message>
    <message>
        <source>chain not saved</source>
        <translation>Kette nicht gespeichert</translation>
    </message>
    <message>
        <source>Something else is still running. Wait for it, or cancel it below.</source>
        <translation>Etwas anderes läuft noch. Warten Sie, oder brechen Sie es unten ab.</translation>
    </message>
    <message>
        <source>Fexel</source>
        <translation>Fexel</translation>
    </message>
    <message>
        <source>The chain has changes that are not saved.</source>
        <translation>Die Kette hat Änderungen, die nicht gespeichert sind.</translation>
    </message>
    <message>
        <source>Save</source>
        <translation>Speichern</translation>
    </message>
    <message>
        <source>Leave without saving</source>
        <translation>Ohne Speichern verlassen</translation>
    </message>
    <message>
        <source>Stay</source>
        <translation>Bleiben</translation>
    </message>
    <message>
        <source>A background needs a sequence of two frames or more.</source>
        <translation>Ein Hintergrund braucht eine Reihe von zwei oder mehr Bildern.</translation>
    </message>
    <message>
        <source>The background</source>
        <translation>Der Hintergrund</translation>
    </message>
    <message>
        <source>Keep the background</source>
        <translation>Den Hintergrund behalten</translation>
    </message>
    <message>
        <source>TIFF (*.tif)</source>
        <translation>TIFF (*.tif)</translation>
    </message>
    <message>
        <source>reading the background</source>
        <translation>Hintergrund wird gelesen</translation>
    </message>
    <message>
        <source>working out the background</source>
        <translation>Hintergrund wird berechnet</translation>
    </message>
    <message>
        <source>opening %1</source>
        <translation>%1 wird geöffnet</translation>
    </message>
    <message>
        <source>%1 was found at %2, with the checksum that the chain names.</source>
        <translation>%1 wurde bei %2 gefunden, mit der Prüfsumme, die die Kette nennt.</translation>
    </message>
    <message>
        <source>Work that was not saved when Fexel last ended is kept: File, Bring back unsaved work.</source>
        <translation>Arbeit, die nicht gespeichert war, als Fexel zuletzt endete, ist erhalten: Datei, Ungespeichertes zurückholen.</translation>
    </message>
    <message>
        <source>There is no unsaved work to bring back.</source>
        <translation>Es gibt nichts Ungespeichertes zurückzuholen.</translation>
    </message>
    <message>
        <source>bringing back unsaved work</source>
        <translation>Ungespeichertes wird zurückgeholt</translation>
    </message>
    <message>
        <source>Brought back what was not saved when Fexel last ended. Save the chain to keep it.</source>
        <translation>Zurückgeholt ist, was nicht gespeichert war, als Fexel zuletzt endete. Speichern Sie die Kette, um es zu behalten.</translation>
    </message>
    <message>
        <source>It ended by a fault; a note of it is in %1.</source>
        <translation>Es endete durch einen Fehler; eine Notiz darüber liegt in %1.</translation>
    </message>
    <message>
        <source>The same steps with another picture</source>
        <translation>Dieselben Schritte mit einem anderen Bild</translation>
    </message>
    <message>
        <source>Pictures and films (%1)</source>
        <translation>Bilder und Filme (%1)</translation>
    </message>
    <message>
        <source>All files (*)</source>
        <translation>Alle Dateien (*)</translation>
    </message>
    <message>
        <source>rendering the demo</source>
        <translation>Beispiel wird gezeichnet</translation>
    </message>
    <message>
        <source>%1 has changed since it was opened here: another program or window has written it.</source>
        <translation>%1 hat sich geändert, seit sie hier geöffnet wurde: Ein anderes Programm oder Fenster hat sie geschrieben.</translation>
    </message>
    <message>
        <source>Save beside</source>
        <translation>Daneben speichern</translation>
    </message>
    <message>
        <source>Open what is there</source>
        <translation>Öffnen, was da ist</translation>
    </message>
    <message>
        <source>Replace it</source>
        <translation>Ersetzen</translation>
    </message>
    <message>
        <source>Cancel</source>
        <translation>Abbrechen</translation>
    </message>
    <message>
        <source>Give the file a name.</source>
        <translation>Geben Sie der Datei einen Namen.</translation>
    </message>
    <message>
        <source>Choose another name, or replace it.</source>
        <translation>Wählen Sie einen anderen Namen, oder ersetzen Sie sie.</translation>
    </message>
    <message>
        <source>writing %1 frames</source>
        <translation>%1 Bilder werden geschrieben</translation>
    </message>
    <message>
        <source>writing %1</source>
        <translation>%1 wird geschrieben</translation>
    </message>
    <message>
        <source>Open a picture, a sequence of several, or a chain</source>
        <translation>Ein Bild, eine Reihe von mehreren oder eine Kette öffnen</translation>
    </message>
    <message>
        <source>Pictures, films and chains (%1 *.json)</source>
        <translation>Bilder, Filme und Ketten (%1 *.json)</translation>
    </message>
    <message>
        <source>Save the chain</source>
        <translation>Die Kette speichern</translation>
    </message>
    <message>
        <source>Chains (*.fexel.json)</source>
        <translation>Ketten (*.fexel.json)</translation>
    </message>
    <message>
        <source>%1 is there already.</source>
        <translation>%1 ist schon da.</translation>
    </message>
    <message>
        <source>Leave it</source>
        <translation>Lassen</translation>
    </message>
    <message>
        <source>Save this comparison as a figure</source>
        <translation>Diesen Vergleich als Abbildung speichern</translation>
    </message>
    <message>
        <source>Figures (*.png *.svg *.pdf)</source>
        <translation>Abbildungen (*.png *.svg *.pdf)</translation>
    </message>
    <message>
        <source>Where to write the result</source>
        <translation>Wohin das Ergebnis geschrieben wird</translation>
    </message>
    <message>
        <source>TIFF (*.tif);;PNG (*.png);;JPEG (*.jpg);;PNM (*.pgm *.ppm);;PFM (*.pfm)</source>
        <translation>TIFF (*.tif);;PNG (*.png);;JPEG (*.jpg);;PNM (*.pgm *.ppm);;PFM (*.pfm)</translation>
    </message>
    <message>
        <source>A folder whose pictures are frames</source>
        <translation>Ein Ordner, dessen Bilder eine Reihe sind</translation>
    </message>
    <message>
        <source>aligning %1 frames</source>
        <translation>%1 Bilder werden ausgerichtet</translation>
    </message>
    <message>
        <source>trying frame %1</source>
        <translation>Bild %1 wird versucht</translation>
    </message>
    <message>
        <source>align all frames</source>
        <translation>alle Bilder ausrichten</translation>
    </message>
    <message>
        <source>try on a frame</source>
        <translation>mit einem Bild versuchen</translation>
    </message>
    <message>
        <source>align some frames</source>
        <translation>einige Bilder ausrichten</translation>
    </message>
    <message>
        <source>The search was cancelled before it came here.</source>
        <translation>Die Suche wurde abgebrochen, bevor sie hierher kam.</translation>
    </message>
    <message>
        <source>Cancelled; %1 of %2 frames were searched and are kept.</source>
        <translation>Abgebrochen; %1 von %2 Bildern sind gesucht und bleiben.</translation>
    </message>
    <message>
        <source>Frame %1 is what the others are compared with. Choose another frame.</source>
        <translation>Mit Bild %1 werden die anderen verglichen. Wählen Sie ein anderes.</translation>
    </message>
    <message>
        <source>looking for movement</source>
        <translation>Bewegung wird gesucht</translation>
    </message>
    <message>
        <source>comparing ways to align</source>
        <translation>Weisen auszurichten werden verglichen</translation>
    </message>
    <message>
        <source>another way to align</source>
        <translation>eine andere Weise auszurichten</translation>
    </message>
    <message>
        <source>The other stack: one file, or all of its frames</source>
        <translation>Der andere Stapel: eine Datei, oder alle seine Bilder</translation>
    </message>
    <message>
        <source>Where the other stack goes</source>
        <translation>Wohin der andere Stapel geht</translation>
    </message>
    <message>
        <source>TIFF (*.tif *.tiff)</source>
        <translation>TIFF (*.tif *.tiff)</translation>
    </message>
    <message>
        <source> The transforms are those of the open sequence.</source>
        <translation> Die Transformationen sind die der offenen Reihe.</translation>
    </message>
    <message>
        <source>trial on frame %1</source>
        <translation>Versuch mit Bild %1</translation>
    </message>
    <message>
        <source>About Fexel</source>
        <translation>Über Fexel</translation>
    </message>
    <message>
        <source>Fexel %1: geometry for people who measure in pictures.</source>
        <translation>Fexel %1: Geometrie für Leute, die in Bildern messen.</translation>
    </message>
    <message>
        <source>Free software under the GNU General Public License, version 3 or later, without any warranty.

It uses Qt %1, and reads pictures by %2.</source>
        <translation>Freie Software unter der GNU General Public License, Version 3 oder neuer, ohne jede Gewährleistung.

Es verwendet Qt %1 und liest Bilder mit %2.</translation>
    </message>
    <message>
        <source>Fexel %1, Qt %2, %3, %4, %5 cores
</source>
        <translation>Fexel %1, Qt %2, %3, %4, %5 Kerne
</translation>
    </message>
    <message>
        <source>no library</source>
        <translation>keine Bibliothek</translation>
    </message>
    <message>
        <source>open: %1, %2 × %3 px, %4 bands, %5 frames, %6 steps
</source>
        <translation>offen: %1, %2 × %3 px, %4 Kanäle, %5 Bilder, %6 Schritte
</translation>
    </message>
    <message>
        <source>how it ended when it ran last:
</source>
        <translation>wie es beim letzten Mal endete:
</translation>
    </message>
    <message>
        <source>the end of the log:
</source>
        <translation>das Ende des Protokolls:
</translation>
    </message>
    <message>
        <source>Fexel ended by a fault when it ran last. A note of it is in %1; Help, Copy diagnosis has it. Work that was not saved is kept: File, Bring back unsaved work.</source>
        <translation>Fexel endete beim letzten Mal durch einen Fehler. Eine Notiz darüber liegt in %1; Hilfe, Diagnose kopieren enthält sie. Ungespeicherte Arbeit ist erhalten: Datei, Ungespeichertes zurückholen.</translation>
    </message>
    <message>
        <source>Copied: versions, what is open, and the end of the log. It names files; look through it before you send it.</source>
        <translation>Kopiert: Versionen, was offen ist, und das Ende des Protokolls. Es nennt Dateien; sehen Sie es durch, bevor Sie es senden.</translation>
    </message>
    <message>
        <source>Select a measurement first: its points are then moved to the edges near them.</source>
        <translation>Wählen Sie zuerst eine Messung: Ihre Punkte werden dann an die Kanten in der Nähe geschoben.</translation>
    </message>
    <message>
        <source>snapping to edges</source>
        <translation>an Kanten rasten</translation>
    </message>
    <message>
        <source>No rim was found near this circle: %1</source>
        <translation>Nahe diesem Kreis wurde kein Rand gefunden: %1</translation>
    </message>
    <message>
        <source>No edge stands out within %1 px of point %2; it stays where it was placed.</source>
        <translation>Innerhalb von %1 px um Punkt %2 hebt sich keine Kante ab; er bleibt, wo er gesetzt wurde.</translation>
    </message>
    <message>
        <source>load measurements</source>
        <translation>Messungen laden</translation>
    </message>
    <message>
        <source>%1 measurements of %2 were laid on the result: this chain has fewer steps.</source>
        <translation>%1 Messungen von %2 wurden auf das Ergebnis gelegt: Diese Kette hat weniger Schritte.</translation>
    </message>
    <message>
        <source>Measurements, or a chain that has some</source>
        <translation>Messungen, oder eine Kette, die welche hat</translation>
    </message>
    <message>
        <source>Measurements and chains (*.json)</source>
        <translation>Messungen und Ketten (*.json)</translation>
    </message>
    <message>
        <source>Save the measurements as a set</source>
        <translation>Die Messungen als Satz speichern</translation>
    </message>
    <message>
        <source>Measurements (*.fexel.json)</source>
        <translation>Messungen (*.fexel.json)</translation>
    </message>
    <message>
        <source>&amp;File</source>
        <translation>&amp;Datei</translation>
    </message>
    <message>
        <source>&amp;Open…</source>
        <translation>Ö&amp;ffnen …</translation>
    </message>
    <message>
        <source>Open a folder as a se&amp;quence…</source>
        <translation>Einen Ordner als &amp;Reihe öffnen …</translation>
    </message>
    <message>
        <source>Open &amp;recent</source>
        <translation>&amp;Zuletzt geöffnet</translation>
    </message>
    <message>
        <source>Same steps with &amp;another picture…</source>
        <translation>Dieselben Schritte mit einem &amp;anderen Bild …</translation>
    </message>
    <message>
        <source>Save comparison as &amp;figure…</source>
        <translation>Vergleich als Abbil&amp;dung speichern …</translation>
    </message>
    <message>
        <source>&amp;Bring back unsaved work</source>
        <translation>&amp;Ungespeichertes zurückholen</translation>
    </message>
    <message>
        <source>&amp;Save chain</source>
        <translation>Kette &amp;speichern</translation>
    </message>
    <message>
        <source>Save chain &amp;as…</source>
        <translation>&amp;Kette speichern unter …</translation>
    </message>
    <message>
        <source>&amp;Write out the result</source>
        <translation>Er&amp;gebnis schreiben</translation>
    </message>
    <message>
        <source>&amp;Run over many pictures…</source>
        <translation>Über &amp;viele Bilder laufen lassen …</translation>
    </message>
    <message>
        <source>Re&amp;port</source>
        <translation>&amp;Bericht</translation>
    </message>
    <message>
        <source>&amp;Save a report…</source>
        <translation>Einen Bericht &amp;speichern …</translation>
    </message>
    <message>
        <source>&amp;Choose a template…</source>
        <translation>Eine &amp;Vorlage wählen …</translation>
    </message>
    <message>
        <source>&amp;Without a template</source>
        <translation>&amp;Ohne Vorlage</translation>
    </message>
    <message>
        <source>Reports are made without a template from now on.</source>
        <translation>Berichte werden ab jetzt ohne Vorlage gemacht.</translation>
    </message>
    <message>
        <source>Pr&amp;int to scale…</source>
        <translation>Ma&amp;ßstäblich drucken …</translation>
    </message>
    <message>
        <source>&amp;Quit</source>
        <translation>B&amp;eenden</translation>
    </message>
    <message>
        <source>&amp;Edit</source>
        <translation>&amp;Bearbeiten</translation>
    </message>
    <message>
        <source>&amp;Copy the picture of B</source>
        <translation>Das Bild von B &amp;kopieren</translation>
    </message>
    <message>
        <source>&amp;Paste a picture</source>
        <translation>Ein Bild &amp;einfügen</translation>
    </message>
    <message>
        <source>The clipboard holds no picture. Copy one, then paste it.</source>
        <translation>Die Zwischenablage hat kein Bild. Kopieren Sie eines, und fügen Sie es dann ein.</translation>
    </message>
    <message>
        <source>&amp;Step</source>
        <translation>&amp;Schritt</translation>
    </message>
    <message>
        <source>&amp;Add a step…</source>
        <translation>Schritt &amp;hinzufügen …</translation>
    </message>
    <message>
        <source>&amp;Copy the step</source>
        <translation>Schritt &amp;kopieren</translation>
    </message>
    <message>
        <source>&amp;Paste steps</source>
        <translation>Schritte &amp;einfügen</translation>
    </message>
    <message>
        <source>Move the step &amp;left</source>
        <translation>Schritt nach &amp;links</translation>
    </message>
    <message>
        <source>Move the step &amp;right</source>
        <translation>Schritt nach &amp;rechts</translation>
    </message>
    <message>
        <source>Re&amp;name the step</source>
        <translation>Schritt &amp;umbenennen</translation>
    </message>
    <message>
        <source>&amp;Remove the step</source>
        <translation>Schritt en&amp;tfernen</translation>
    </message>
    <message>
        <source>&amp;Measure</source>
        <translation>&amp;Messen</translation>
    </message>
    <message>
        <source>A&amp;xes of B</source>
        <translation>A&amp;chsen von B</translation>
    </message>
    <message>
        <source>&amp;Origin and x axis by a line…</source>
        <translation>&amp;Ursprung und x-Achse durch eine Linie …</translation>
    </message>
    <message>
        <source>Press on the origin, and drag along the x axis</source>
        <translation>Auf den Ursprung drücken und entlang der x-Achse ziehen</translation>
    </message>
    <message>
        <source>Origin in the &amp;lower left corner, y up</source>
        <translation>Ursprung &amp;links unten, y nach oben</translation>
    </message>
    <message>
        <source>Origin in the &amp;middle, y up</source>
        <translation>Ursprung in der &amp;Mitte, y nach oben</translation>
    </message>
    <message>
        <source>y the other &amp;way</source>
        <translation>&amp;y umkehren</translation>
    </message>
    <message>
        <source>x the o&amp;ther way</source>
        <translation>&amp;x umkehren</translation>
    </message>
    <message>
        <source>&amp;Values at the origin…</source>
        <translation>&amp;Werte am Ursprung …</translation>
    </message>
    <message>
        <source>Values at the origin</source>
        <translation>Werte am Ursprung</translation>
    </message>
    <message>
        <source>x and y, apart by a blank:</source>
        <translation>x und y, durch ein Leerzeichen getrennt:</translation>
    </message>
    <message>
        <source>Give two numbers, such as 0 50.</source>
        <translation>Geben Sie zwei Zahlen an, etwa 0 50.</translation>
    </message>
    <message>
        <source>&amp;None: from the upper left corner</source>
        <translation>&amp;Keine: ab der linken oberen Ecke</translation>
    </message>
    <message>
        <source>S&amp;nap its points to edges and corners</source>
        <translation>Punkte &amp;an Kanten und Ecken rasten</translation>
    </message>
    <message>
        <source>Loa&amp;d a set…</source>
        <translation>&amp;Satz laden …</translation>
    </message>
    <message>
        <source>&amp;Save as a set…</source>
        <translation>Sa&amp;tz sichern …</translation>
    </message>
    <message>
        <source>Copy the ta&amp;ble as CSV</source>
        <translation>Tabelle als CSV &amp;kopieren</translation>
    </message>
    <message>
        <source>Mo&amp;vement over the frames…</source>
        <translation>&amp;Bewegung über die Bilder …</translation>
    </message>
    <message>
        <source>Mar&amp;ks</source>
        <translation>Mar&amp;ken</translation>
    </message>
    <message>
        <source>&amp;Scale bar</source>
        <translation>&amp;Maßstabsbalken</translation>
    </message>
    <message>
        <source>&amp;Text</source>
        <translation>&amp;Text</translation>
    </message>
    <message>
        <source>&amp;Arrow…</source>
        <translation>&amp;Pfeil …</translation>
    </message>
    <message>
        <source>&amp;Outline…</source>
        <translation>&amp;Umriss …</translation>
    </message>
    <message>
        <source>&amp;Inset, a part enlarged…</source>
        <translation>&amp;Ausschnitt, ein vergrößerter Teil …</translation>
    </message>
    <message>
        <source>&amp;Frame and time</source>
        <translation>&amp;Bild und Zeit</translation>
    </message>
    <message>
        <source>&amp;Measurements with their values</source>
        <translation>Messungen mit &amp;ihren Werten</translation>
    </message>
    <message>
        <source>S&amp;how or hide the marks</source>
        <translation>Marken &amp;zeigen oder verbergen</translation>
    </message>
    <message>
        <source>&amp;Copy with marks: style and file</source>
        <translation>&amp;Kopie mit Marken: Aussehen und Datei</translation>
    </message>
    <message>
        <source>&amp;View</source>
        <translation>&amp;Ansicht</translation>
    </message>
    <message>
        <source>&amp;Fit</source>
        <translation>&amp;Einpassen</translation>
    </message>
    <message>
        <source>&amp;1:1</source>
        <translation>&amp;1:1</translation>
    </message>
    <message>
        <source>Zoom &amp;in</source>
        <translation>&amp;Vergrößern</translation>
    </message>
    <message>
        <source>Zoom &amp;out</source>
        <translation>Ver&amp;kleinern</translation>
    </message>
    <message>
        <source>&amp;One picture</source>
        <translation>Ein &amp;Bild</translation>
    </message>
    <message>
        <source>&amp;Side by side</source>
        <translation>&amp;Nebeneinander</translation>
    </message>
    <message>
        <source>&amp;Curtain</source>
        <translation>V&amp;orhang</translation>
    </message>
    <message>
        <source>Bl&amp;ink</source>
        <translation>&amp;Wechsel</translation>
    </message>
    <message>
        <source>&amp;Difference</source>
        <translation>&amp;Differenz</translation>
    </message>
    <message>
        <source>&amp;Tint</source>
        <translation>&amp;Tönung</translation>
    </message>
    <message>
        <source>Flag &amp;A here</source>
        <translation>Flagge &amp;A hierher</translation>
    </message>
    <message>
        <source>Flag &amp;B here</source>
        <translation>&amp;Flagge B hierher</translation>
    </message>
    <message>
        <source>&amp;Keep what B shows, as A</source>
        <translation>Was B &amp;zeigt, als A behalten</translation>
    </message>
    <message>
        <source>Next fra&amp;me</source>
        <translation>Nächstes Bi&amp;ld</translation>
    </message>
    <message>
        <source>Pre&amp;vious frame</source>
        <translation>Vo&amp;riges Bild</translation>
    </message>
    <message>
        <source>Pla&amp;y the frames</source>
        <translation>Bilder ab&amp;spielen</translation>
    </message>
    <message>
        <source>&amp;Proof sheet: one spot under every setting</source>
        <translation>&amp;Probebogen: eine Stelle unter jeder Einstellung</translation>
    </message>
    <message>
        <source>Fold the &amp;ledger</source>
        <translation>Tabelle e&amp;inklappen</translation>
    </message>
    <message>
        <source>F&amp;ull screen</source>
        <translation>Vollbild</translation>
    </message>
    <message>
        <source>&amp;Help</source>
        <translation>&amp;Hilfe</translation>
    </message>
    <message>
        <source>&amp;Guide</source>
        <translation>&amp;Anleitung</translation>
    </message>
    <message>
        <source>&amp;Keys</source>
        <translation>&amp;Tasten</translation>
    </message>
    <message>
        <source>Open the &amp;demo: a wall seen from aside</source>
        <translation>&amp;Beispiel öffnen: eine Wand, von der Seite gesehen</translation>
    </message>
    <message>
        <source>Demo: a scanned &amp;card</source>
        <translation>Beispiel: eine gescannte &amp;Karte</translation>
    </message>
    <message>
        <source>Demo: a &amp;roundel</source>
        <translation>Beispiel: ein &amp;Rundteller</translation>
    </message>
    <message>
        <source>Demo: a wall that dries, 1&amp;6 frames</source>
        <translation>Beispiel: eine trocknende Wand, 1&amp;6 Bilder</translation>
    </message>
    <message>
        <source>Demo: a tile that &amp;cracks, 13 frames</source>
        <translation>Beispiel: &amp;eine Fliese, die reißt, 13 Bilder</translation>
    </message>
    <message>
        <source>Demo: slip poured round a post, &amp;8 pairs</source>
        <translation>Beispiel: Schlicker um einen Pfosten, &amp;8 Paare</translation>
    </message>
    <message>
        <source>Demo: a film, passing by the &amp;wall</source>
        <translation>Beispiel: ein Film, an der &amp;Wand vorbei</translation>
    </message>
    <message>
        <source>Demo: five &amp;bands of a wall</source>
        <translation>Beispiel: &amp;fünf Kanäle einer Wand</translation>
    </message>
    <message>
        <source>Demo: engraved &amp;lines</source>
        <translation>Beispiel: gravierte &amp;Linien</translation>
    </message>
    <message>
        <source>Demo: a board from five &amp;sides</source>
        <translation>Beispiel: eine Tafel von fünf &amp;Seiten</translation>
    </message>
    <message>
        <source>Demo: an old record and a &amp;plan</source>
        <translation>Beispiel: eine alte Aufnahme und ein &amp;Plan</translation>
    </message>
    <message>
        <source>Co&amp;py diagnosis</source>
        <translation>&amp;Diagnose kopieren</translation>
    </message>
    <message>
        <source>&amp;About</source>
        <translation>&amp;Über Fexel</translation>
    </message>
    <message>
        <source>Keys</source>
        <translation>Tasten</translation>
    </message>
    <message>
        <source>Tab, arrows</source>
        <translation>Tab, Pfeile</translation>
    </message>
    <message>
        <source>next handle; move it by 1 px (Shift 0.1, Ctrl 10)</source>
        <translation>nächster Griff; um 1 px bewegen (Umschalt 0,1, Strg 10)</translation>
    </message>
    <message>
        <source>Arrows</source>
        <translation>Pfeile</translation>
    </message>
    <message>
        <source>along the rail; without a handle, carry the picture</source>
        <translation>entlang der Leiste; ohne Griff das Bild tragen</translation>
    </message>
    <message>
        <source>Escape</source>
        <translation>Esc</translation>
    </message>
    <message>
        <source>put back what is in the hand; leave a length or a line that was begun</source>
        <translation>zurücklegen, was in der Hand ist; eine begonnene Länge oder Linie verlassen</translation>
    </message>
    <message>
        <source>Space</source>
        <translation>Leertaste</translation>
    </message>
    <message>
        <source>hold to pan</source>
        <translation>halten, um zu schieben</translation>
    </message>
    <message>
        <source>X</source>
        <translation>X</translation>
    </message>
    <message>
        <source>hold to see the other of A and B (view One)</source>
        <translation>halten, um das andere von A und B zu sehen (Ansicht Eins)</translation>
    </message>
    <message>
        <source>Wheel</source>
        <translation>Rad</translation>
    </message>
    <message>
        <source>zoom at the pointer</source>
        <translation>am Zeiger vergrößern</translation>
    </message>
    <message>
        <source>Remove the mark</source>
        <translation>Die Marke entfernen</translation>
    </message>
    <message>
        <source>Remove the mask or its corner</source>
        <translation>Die Maske oder ihre Ecke entfernen</translation>
    </message>
    <message>
        <source>Copy the position</source>
        <translation>Die Stelle kopieren</translation>
    </message>
    <message>
        <source>Rename it</source>
        <translation>Umbenennen</translation>
    </message>
    <message>
        <source>Say its true length</source>
        <translation>Ihre wahre Länge angeben</translation>
    </message>
    <message>
        <source>Snap its points to edges and corners</source>
        <translation>Ihre Punkte an Kanten und Ecken rasten</translation>
    </message>
    <message>
        <source>Remove it</source>
        <translation>Entfernen</translation>
    </message>
    <message>
        <source>Switch off</source>
        <translation>Ausschalten</translation>
    </message>
    <message>
        <source>Switch on</source>
        <translation>Einschalten</translation>
    </message>
    <message>
        <source>Copy the table as CSV</source>
        <translation>Die Tabelle als CSV kopieren</translation>
    </message>
    <message>
        <source>Show this frame</source>
        <translation>Dieses Bild zeigen</translation>
    </message>
    <message>
        <source>Take this frame in</source>
        <translation>Dieses Bild aufnehmen</translation>
    </message>
    <message>
        <source>Leave this frame out</source>
        <translation>Dieses Bild weglassen</translation>
    </message>
    <message>
        <source>Copy its file name</source>
        <translation>Seinen Dateinamen kopieren</translation>
    </message>
    <message>
        <source>measure movement</source>
        <translation>Bewegung messen</translation>
    </message>
    <message>
        <source>Movement needs a sequence of two frames or more.</source>
        <translation>Bewegung braucht eine Reihe von zwei oder mehr Bildern.</translation>
    </message>
    <message>
        <source>This frame is left out: tick it to measure it.</source>
        <translation>Dieses Bild ist weggelassen: Haken Sie es an, um es zu messen.</translation>
    </message>
    <message>
        <source>This frame has no other one to be a pair with.</source>
        <translation>Dieses Bild hat kein anderes, mit dem es ein Paar wäre.</translation>
    </message>
    <message>
        <source>This is the frame that displacements begin at: show another one to try.</source>
        <translation>Bei diesem Bild beginnen die Verschiebungen: Zeigen Sie ein anderes, um es zu versuchen.</translation>
    </message>
    <message>
        <source>All pairs are measured as one: one alone says nothing of it. Measure all.</source>
        <translation>Alle Paare werden als eines gemessen: Eines allein sagt nichts. Messen Sie alle.</translation>
    </message>
    <message>
        <source>This frame is measured already, with these settings.</source>
        <translation>Dieses Bild ist mit diesen Einstellungen schon gemessen.</translation>
    </message>
    <message>
        <source>measuring %1 frames</source>
        <translation>%1 Bilder werden gemessen</translation>
    </message>
    <message>
        <source>checking the texture</source>
        <translation>Textur wird geprüft</translation>
    </message>
    <message>
        <source>trying a known movement</source>
        <translation>eine bekannte Bewegung wird versucht</translation>
    </message>
    <message>
        <source>A known movement of this frame, with noise of %1 grey levels: errors of %2 px RMS along each axis, %3 times what is stated; pull at parts of a pixel %4 px; largest error %5 px; %6 % of the points found.</source>
        <translation>Eine bekannte Bewegung dieses Bildes, mit einem Rauschen von %1 Grauwerten: Fehler von %2 px RMS entlang jeder Achse, %3-mal so viel wie angegeben; Zug an Teilen eines Pixels %4 px; größter Fehler %5 px; %6 % der Punkte gefunden.</translation>
    </message>
    <message>
        <source>Measure this frame first: try it, or measure all.</source>
        <translation>Messen Sie zuerst dieses Bild: versuchen Sie es, oder messen Sie alle.</translation>
    </message>
    <message>
        <source>Show a frame: the mean is of all.</source>
        <translation>Zeigen Sie ein Bild: Das Mittel ist von allen.</translation>
    </message>
    <message>
        <source>No point of this frame is ok.</source>
        <translation>Kein Punkt dieses Bildes ist gut.</translation>
    </message>
    <message>
        <source>If nothing moved: displacements scatter by %1 and %2 px (stated: %3 px), strain by %4 %. All moved by %5, %6 px together.</source>
        <translation>Wenn sich nichts bewegte: Verschiebungen streuen um %1 und %2 px (angegeben: %3 px), Dehnung um %4 %. Gemeinsam bewegten sich alle um %5, %6 px.</translation>
    </message>
    <message>
        <source>Nothing is measured yet.</source>
        <translation>Noch ist nichts gemessen.</translation>
    </message>
    <message>
        <source>The rules are still being carried out: try again in a moment.</source>
        <translation>Die Regeln werden noch ausgeführt: Versuchen Sie es gleich noch einmal.</translation>
    </message>
    <message>
        <source>Save the mean</source>
        <translation>Das Mittel speichern</translation>
    </message>
    <message>
        <source>Tables (*.csv)</source>
        <translation>Tabellen (*.csv)</translation>
    </message>
    <message>
        <source>Save the table</source>
        <translation>Die Tabelle speichern</translation>
    </message>
    <message>
        <source>Save the maps</source>
        <translation>Die Karten speichern</translation>
    </message>
    <message>
        <source>A folder for a file a frame</source>
        <translation>Ein Ordner für je eine Datei pro Bild</translation>
    </message>
    <message>
        <source>A mean needs two fields of a flow.</source>
        <translation>Ein Mittel braucht zwei Felder einer Strömung.</translation>
    </message>
    <message>
        <source>writing the movement</source>
        <translation>Bewegung wird geschrieben</translation>
    </message>
    <message>
        <source>%1 fields were written to %2.</source>
        <translation>%1 Felder wurden nach %2 geschrieben.</translation>
    </message>
    <message>
        <source>looking at the grains</source>
        <translation>Teilchen werden angesehen</translation>
    </message>
    <message>
        <source>windows that suit the grains</source>
        <translation>Fenster, die zu den Teilchen passen</translation>
    </message>
    <message>
        <source>Grains of %1 px, one in %2 px²; the largest movement is %3 px. Windows of %4 px at last hold %5 of them.</source>
        <translation>Teilchen von %1 px, eines in %2 px²; die größte Bewegung ist %3 px. Fenster von zuletzt %4 px fassen %5 davon.</translation>
    </message>
    <message>
        <source>Choose a background first.</source>
        <translation>Wählen Sie zuerst einen Hintergrund.</translation>
    </message>
    <message>
        <source>Open a reference</source>
        <translation>Ein Bezugsbild öffnen</translation>
    </message>
    <message>
        <source>Pictures (%1)</source>
        <translation>Bilder (%1)</translation>
    </message>
    <message>
        <source>opening the reference</source>
        <translation>Bezugsbild wird geöffnet</translation>
    </message>
    <message>
        <source>Another step was chosen meanwhile: open the reference again.</source>
        <translation>Inzwischen wurde ein anderer Schritt gewählt: Öffnen Sie das Bezugsbild noch einmal.</translation>
    </message>
    <message>
        <source>lay on a reference</source>
        <translation>auf ein Bezugsbild legen</translation>
    </message>
    <message>
        <source>Open a reference and place pairs first.</source>
        <translation>Öffnen Sie zuerst ein Bezugsbild, und setzen Sie Paare.</translation>
    </message>
    <message>
        <source>refining %1 pairs</source>
        <translation>%1 Paare werden verfeinert</translation>
    </message>
    <message>
        <source>The pairs have changed meanwhile: nothing was refined. Try again.</source>
        <translation>Die Paare haben sich inzwischen geändert: Nichts wurde verfeinert. Versuchen Sie es noch einmal.</translation>
    </message>
    <message>
        <source>refine pairs</source>
        <translation>Paare verfeinern</translation>
    </message>
    <message>
        <source>%1 pairs were refined, to ± %2 px or better.</source>
        <translation>%1 Paare wurden verfeinert, auf ± %2 px oder besser.</translation>
    </message>
    <message>
        <source>No pair could be refined.</source>
        <translation>Kein Paar ließ sich verfeinern.</translation>
    </message>
    <message>
        <source>%1 stayed where they are; of %2: %3</source>
        <translation>%1 blieben, wo sie sind; von %2: %3</translation>
    </message>
    <message>
        <source>Open a reference first: pairs are proposed between two pictures.</source>
        <translation>Öffnen Sie zuerst ein Bezugsbild: Paare werden zwischen zwei Bildern vorgeschlagen.</translation>
    </message>
    <message>
        <source>proposing pairs</source>
        <translation>Paare werden vorgeschlagen</translation>
    </message>
    <message>
        <source>The pairs have changed meanwhile: nothing was added. Try again.</source>
        <translation>Die Paare haben sich inzwischen geändert: Nichts wurde hinzugefügt. Versuchen Sie es noch einmal.</translation>
    </message>
    <message>
        <source>propose pairs</source>
        <translation>Paare vorschlagen</translation>
    </message>
    <message>
        <source>%1 pairs were proposed; they lie within %2 px RMS of one perspective. Undo takes them away, the table leaves some out.</source>
        <translation>%1 Paare wurden vorgeschlagen; sie liegen innerhalb von %2 px RMS einer Perspektive. Rückgängig nimmt sie weg, die Tabelle lässt einzelne aus.</translation>
    </message>
    <message>
        <source>looking at %1 pictures</source>
        <translation>%1 Bilder werden angesehen</translation>
    </message>
    <message>
        <source>These %1 pictures have different sizes: %2.</source>
        <translation>Diese %1 Bilder haben verschiedene Größen: %2.</translation>
    </message>
    <message>
        <source>The frames of a sequence mostly have one size. Unrelated pictures are better opened each on its own, or run through one chain (File, Run over many pictures).</source>
        <translation>Die Bilder einer Reihe haben meist eine Größe. Bilder ohne Zusammenhang öffnet man besser jedes für sich, oder lässt eine Kette über sie laufen (Datei, Über viele Bilder laufen lassen).</translation>
    </message>
    <message>
        <source>Each in its own window</source>
        <translation>Jedes in einem Fenster</translation>
    </message>
    <message>
        <source>As a run</source>
        <translation>Als Lauf</translation>
    </message>
    <message>
        <source>As a sequence</source>
        <translation>Als Reihe</translation>
    </message>
    <message>
        <source>The pasted picture could not be kept in %1. Check that the disk has room.</source>
        <translation>Das eingefügte Bild konnte nicht in %1 abgelegt werden. Prüfen Sie, ob der Datenträger Platz hat.</translation>
    </message>
    <message>
        <source>%1 is too large for the clipboard. Write it to a file (Ctrl+E).</source>
        <translation>%1 ist zu groß für die Zwischenablage. Schreiben Sie es in eine Datei (Strg+E).</translation>
    </message>
    <message>
        <source>copying the picture</source>
        <translation>Bild wird kopiert</translation>
    </message>
    <message>
        <source>Copied as it is shown: %1 × %2 px of 8 bits. For measuring, write it to a file (Ctrl+E).</source>
        <translation>Kopiert, wie es gezeigt wird: %1 × %2 px mit 8 Bit. Zum Messen schreiben Sie es in eine Datei (Strg+E).</translation>
    </message>
    <message>
        <source>reading alpha again</source>
        <translation>Alpha wird neu gelesen</translation>
    </message>
    <message>
        <source>Alpha is the last band now, and says nothing of which pixels are empty. The chain keeps it.</source>
        <translation>Alpha ist jetzt der letzte Kanal und sagt nicht, welche Pixel leer sind. Die Kette behält es.</translation>
    </message>
    <message>
        <source>Alpha says which pixels are empty.</source>
        <translation>Alpha sagt, welche Pixel leer sind.</translation>
    </message>
    <message>
        <source>carry to the other channels and planes</source>
        <translation>zu den anderen Kanälen und Ebenen mitnehmen</translation>
    </message>
    <message>
        <source>All channels and planes lie as the matched ones of their moment do; they are all written.</source>
        <translation>Alle Kanäle und Ebenen liegen wie die zugeordneten ihres Zeitpunkts; alle werden geschrieben.</translation>
    </message>
    <message>
        <source>%1 × %2 mm on paper, %3 sheets, scale %4. A ruler on each sheet shows whether the printer kept the size.</source>
        <translation>%1 × %2 mm auf Papier, %3 Blätter, Maßstab %4. Ein Lineal auf jedem Blatt zeigt, ob der Drucker die Größe hielt.</translation>
    </message>
    <message>
        <source>printing</source>
        <translation>es wird gedruckt</translation>
    </message>
    <message>
        <source>Printed: %1 sheets, scale %2. Measure the ruler before you trust the size.</source>
        <translation>Gedruckt: %1 Blätter, Maßstab %2. Messen Sie das Lineal nach, bevor Sie der Größe trauen.</translation>
    </message>
    <message>
        <source>The run is not done yet. Report on it when it is.</source>
        <translation>Der Lauf ist noch nicht fertig. Berichten Sie, wenn er es ist.</translation>
    </message>
    <message>
        <source>Save the report</source>
        <translation>Den Bericht speichern</translation>
    </message>
    <message>
        <source>Reports (*.pdf *.html)</source>
        <translation>Berichte (*.pdf *.html)</translation>
    </message>
    <message>
        <source>The report is written: %1</source>
        <translation>Der Bericht ist geschrieben: %1</translation>
    </message>
    <message>
        <source>measuring for the report</source>
        <translation>für den Bericht wird gemessen</translation>
    </message>
    <message>
        <source>reading for the report</source>
        <translation>für den Bericht wird gelesen</translation>
    </message>
    <message>
        <source>The work was changed while the report was made. Make it again.</source>
        <translation>Die Arbeit wurde geändert, während der Bericht entstand. Machen Sie ihn noch einmal.</translation>
    </message>
    <message>
        <source>The template of reports</source>
        <translation>Die Vorlage der Berichte</translation>
    </message>
    <message>
        <source>Templates of reports (*.json)</source>
        <translation>Vorlagen von Berichten (*.json)</translation>
    </message>
    <message>
        <source>Reports are made with %1 from now on.</source>
        <translation>Berichte werden ab jetzt mit %1 gemacht.</translation>
    </message>
    <message>
        <source>A run is under way. What is done stays; File, Run over many pictures, goes on with the rest later.</source>
        <translation>Ein Lauf ist im Gange. Was fertig ist, bleibt; Datei, Über viele Bilder laufen lassen, macht später mit dem Rest weiter.</translation>
    </message>
    <message>
        <source>Stop it and leave</source>
        <translation>Anhalten und verlassen</translation>
    </message>
    <message>
        <source>Open several frames first: a folder, a stack or a film.</source>
        <translation>Öffnen Sie zuerst mehrere Bilder: einen Ordner, einen Stapel oder einen Film.</translation>
    </message>
    <message>
        <source>Films without loss (*.mkv);;Films for showing (*.webm)</source>
        <translation>Filme ohne Verlust (*.mkv);;Filme zum Zeigen (*.webm)</translation>
    </message>
    <message>
        <source>TIFF (*.tif);;PNG (*.png)</source>
        <translation>TIFF (*.tif);;PNG (*.png)</translation>
    </message>
    <message>
        <source>A mosaic aligns the frames itself: put flag B before the align step.</source>
        <translation>Ein Mosaik richtet die Bilder selbst aus: Setzen Sie Flagge B vor den Schritt Ausrichten.</translation>
    </message>
    <message>
        <source>%1 frames, %2</source>
        <translation>%1 Bilder, %2</translation>
    </message>
    <message>
        <source>without loss</source>
        <translation>ohne Verlust</translation>
    </message>
    <message>
        <source>for showing</source>
        <translation>zum Zeigen</translation>
    </message>
    <message>
        <source> File, Open recent opens it.</source>
        <translation> Datei, Zuletzt geöffnet öffnet es.</translation>
    </message>
    <message>
        <source>Drag the line that is followed through all frames</source>
        <translation>Die Linie ziehen, die durch alle Bilder verfolgt wird</translation>
    </message>
    <message>
        <source>Slice along time</source>
        <translation>Schnitt durch die Zeit</translation>
    </message>
    <message>
        <source>F&amp;rames</source>
        <translation>B&amp;ilder</translation>
    </message>
    <message>
        <source>&amp;One picture of all</source>
        <translation>&amp;Ein Bild aus allen</translation>
    </message>
    <message>
        <source>&amp;Mean</source>
        <translation>&amp;Mittel</translation>
    </message>
    <message>
        <source>M&amp;edian</source>
        <translation>M&amp;edian</translation>
    </message>
    <message>
        <source>M&amp;inimum</source>
        <translation>M&amp;inimum</translation>
    </message>
    <message>
        <source>M&amp;aximum</source>
        <translation>M&amp;aximum</translation>
    </message>
    <message>
        <source>&amp;Standard deviation</source>
        <translation>&amp;Standardabweichung</translation>
    </message>
    <message>
        <source>&amp;Range</source>
        <translation>S&amp;pannweite</translation>
    </message>
    <message>
        <source>S&amp;um</source>
        <translation>S&amp;umme</translation>
    </message>
    <message>
        <source>The %1 of all frames</source>
        <translation>%1 aller Bilder</translation>
    </message>
    <message>
        <source>&amp;Slice along time…</source>
        <translation>&amp;Schnitt durch die Zeit …</translation>
    </message>
    <message>
        <source>&amp;Mosaic of overlapping frames</source>
        <translation>&amp;Mosaik überlappender Bilder</translation>
    </message>
    <message>
        <source>Moved &amp;only (translation)</source>
        <translation>Nur &amp;verschoben (Verschiebung)</translation>
    </message>
    <message>
        <source>Moved and &amp;rotated (rigid)</source>
        <translation>Verschoben und &amp;gedreht (starr)</translation>
    </message>
    <message>
        <source>Also at other distances (&amp;similarity)</source>
        <translation>Auch aus anderen Entfernungen (&amp;Ähnlichkeit)</translation>
    </message>
    <message>
        <source>Of a &amp;plane, from any side (projective)</source>
        <translation>Von einer &amp;Ebene, von jeder Seite (projektiv)</translation>
    </message>
    <message>
        <source>Mosaic</source>
        <translation>Mosaik</translation>
    </message>
    <message>
        <source>&amp;Carry to the other channels and planes</source>
        <translation>&amp;Zu den anderen Kanälen und Ebenen mitnehmen</translation>
    </message>
    <message>
        <source>Save as a &amp;film…</source>
        <translation>Als &amp;Film speichern …</translation>
    </message>
    <message>
        <source>Save the frames as a film</source>
        <translation>Die Bilder als Film speichern</translation>
    </message>
    <message>
        <source>Copy with marks</source>
        <translation>Kopie mit Marken</translation>
    </message>
    <message>
        <source>What is written</source>
        <translation>Was geschrieben wird</translation>
    </message>
    <message>
        <source>the data</source>
        <translation>die Daten</translation>
    </message>
    <message>
        <source>a copy with marks</source>
        <translation>Kopie mit Marken</translation>
    </message>
    <message>
        <source>Add</source>
        <translation>Hinzufügen</translation>
    </message>
    <message>
        <source>Scale bar</source>
        <translation>Maßstabsbalken</translation>
    </message>
    <message>
        <source>Text</source>
        <translation>Text</translation>
    </message>
    <message>
        <source>Arrow…</source>
        <translation>Pfeil …</translation>
    </message>
    <message>
        <source>Outline…</source>
        <translation>Umriss …</translation>
    </message>
    <message>
        <source>Inset…</source>
        <translation>Ausschnitt …</translation>
    </message>
    <message>
        <source>Frame, time</source>
        <translation>Bild, Zeit</translation>
    </message>
    <message>
        <source>Add: %1</source>
        <translation>Hinzufügen: %1</translation>
    </message>
    <message>
        <source>Marks</source>
        <translation>Marken</translation>
    </message>
    <message>
        <source>Why the mark is not drawn</source>
        <translation>Warum die Marke nicht gezeichnet wird</translation>
    </message>
    <message>
        <source>show them over the picture</source>
        <translation>sie über dem Bild zeigen</translation>
    </message>
    <message>
        <source>choose a round length</source>
        <translation>eine runde Länge wählen</translation>
    </message>
    <message>
        <source>Length of the bar</source>
        <translation>Länge des Balkens</translation>
    </message>
    <message>
        <source>length</source>
        <translation>Länge</translation>
    </message>
    <message>
        <source>Unit of the bar</source>
        <translation>Einheit des Balkens</translation>
    </message>
    <message>
        <source>Direction of the bar</source>
        <translation>Richtung des Balkens</translation>
    </message>
    <message>
        <source>across</source>
        <translation>quer</translation>
    </message>
    <message>
        <source>both</source>
        <translation>beide</translation>
    </message>
    <message>
        <source>with its length</source>
        <translation>mit seiner Länge</translation>
    </message>
    <message>
        <source>Text of the mark</source>
        <translation>Text der Marke</translation>
    </message>
    <message>
        <source>Shape of the outline</source>
        <translation>Form des Umrisses</translation>
    </message>
    <message>
        <source>ellipse</source>
        <translation>Ellipse</translation>
    </message>
    <message>
        <source>shape</source>
        <translation>Form</translation>
    </message>
    <message>
        <source>Enlargement of the inset</source>
        <translation>Vergrößerung des Ausschnitts</translation>
    </message>
    <message>
        <source>enlarged</source>
        <translation>vergrößert</translation>
    </message>
    <message>
        <source>What is said of the frame</source>
        <translation>Was vom Bild gesagt wird</translation>
    </message>
    <message>
        <source>time</source>
        <translation>Zeit</translation>
    </message>
    <message>
        <source>shows</source>
        <translation>zeigt</translation>
    </message>
    <message>
        <source>Decimals of the time</source>
        <translation>Nachkommastellen der Zeit</translation>
    </message>
    <message>
        <source>decimals</source>
        <translation>Stellen</translation>
    </message>
    <message>
        <source>with their values</source>
        <translation>mit ihren Werten</translation>
    </message>
    <message>
        <source>Place of the mark</source>
        <translation>Ort der Marke</translation>
    </message>
    <message>
        <source>where it was dragged</source>
        <translation>von Hand</translation>
    </message>
    <message>
        <source>place</source>
        <translation>Ort</translation>
    </message>
    <message>
        <source>Remove this mark</source>
        <translation>Diese Marke entfernen</translation>
    </message>
    <message>
        <source>Where to</source>
        <translation>Wohin</translation>
    </message>
    <message>
        <source>File of the copy</source>
        <translation>Datei der Kopie</translation>
    </message>
    <message>
        <source>Its ending says the format: .png, .tif, .jpg with the marks drawn in; .svg and .pdf with text and lines that can be edited</source>
        <translation>Ihre Endung sagt das Format: .png, .tif, .jpg mit eingezeichneten Marken; .svg und .pdf mit Text und Linien, die sich bearbeiten lassen</translation>
    </message>
    <message>
        <source>Choose…</source>
        <translation>Wählen …</translation>
    </message>
    <message>
        <source>Choose the file of the copy</source>
        <translation>Die Datei der Kopie wählen</translation>
    </message>
    <message>
        <source>Write the copy</source>
        <translation>Die Kopie schreiben</translation>
    </message>
    <message>
        <source>Replace the existing copy</source>
        <translation>Die vorhandene Kopie ersetzen</translation>
    </message>
    <message>
        <source>What came of the copy</source>
        <translation>Was aus der Kopie wurde</translation>
    </message>
    <message>
        <source>Caption</source>
        <translation>Beschriftung</translation>
    </message>
    <message>
        <source>Drag from the arrow&apos;s tail to what it points at</source>
        <translation>Vom Ende des Pfeils zu dem ziehen, worauf er zeigt</translation>
    </message>
    <message>
        <source>Drag from corner to corner of what is outlined</source>
        <translation>Von Ecke zu Ecke dessen ziehen, was umrissen wird</translation>
    </message>
    <message>
        <source>Drag from corner to corner of the part that is enlarged</source>
        <translation>Von Ecke zu Ecke des Teils ziehen, der vergrößert wird</translation>
    </message>
    <message>
        <source>Pictures (*.png *.tif *.jpg);;Vectors (*.svg *.pdf)</source>
        <translation>Bilder (*.png *.tif *.jpg);;Vektoren (*.svg *.pdf)</translation>
    </message>
    <message>
        <source>The name&apos;s ending does not say what to write: use .png, .tif, .jpg, .svg or .pdf.</source>
        <translation>Die Endung des Namens sagt nicht, was geschrieben werden soll: Verwenden Sie .png, .tif, .jpg, .svg oder .pdf.</translation>
    </message>
    <message>
        <source>This file is there already. Choose another name, or replace it.</source>
        <translation>Diese Datei ist schon da. Wählen Sie einen anderen Namen, oder ersetzen Sie sie.</translation>
    </message>
    <message>
        <source>Writing…</source>
        <translation>Es wird geschrieben …</translation>
    </message>
    <message>
        <source>Written: %1.</source>
        <translation>Geschrieben: %1.</translation>
    </message>
    <message>
        <source>None yet. Marks are drawn on a copy: the data keep their samples.</source>
        <translation>Noch keine. Marken werden auf eine Kopie gezeichnet: Die Daten behalten ihre Werte.</translation>
    </message>
    <message>
        <source>No picture is open.</source>
        <translation>Kein Bild ist offen.</translation>
    </message>
    <message>
        <source>The copy has %1 × %2 px and is printed %3 × %4 mm large. The data are written on the other page, without marks.</source>
        <translation>Die Kopie hat %1 × %2 px und wird %3 × %4 mm groß gedruckt. Die Daten werden auf der anderen Seite geschrieben, ohne Marken.</translation>
    </message>
    <message>
        <source>Style of all marks</source>
        <translation>Aussehen aller Marken</translation>
    </message>
    <message>
        <source>printed width</source>
        <translation>Druckbreite</translation>
    </message>
    <message>
        <source>Width of the printed picture</source>
        <translation>Breite des gedruckten Bildes</translation>
    </message>
    <message>
        <source>mm</source>
        <translation>mm</translation>
    </message>
    <message>
        <source>resolution</source>
        <translation>Auflösung</translation>
    </message>
    <message>
        <source>Dots per inch of the copy</source>
        <translation>Punkte je Zoll der Kopie</translation>
    </message>
    <message>
        <source>dpi</source>
        <translation>dpi</translation>
    </message>
    <message>
        <source>the picture&apos;s own pixels</source>
        <translation>eigene Pixel</translation>
    </message>
    <message>
        <source>Size of text</source>
        <translation>Größe des Textes</translation>
    </message>
    <message>
        <source>pt</source>
        <translation>pt</translation>
    </message>
    <message>
        <source>bar</source>
        <translation>Balken</translation>
    </message>
    <message>
        <source>Thickness of bars</source>
        <translation>Dicke der Balken</translation>
    </message>
    <message>
        <source>lines</source>
        <translation>Linien</translation>
    </message>
    <message>
        <source>Width of lines</source>
        <translation>Breite der Linien</translation>
    </message>
    <message>
        <source>colour</source>
        <translation>Farbe</translation>
    </message>
    <message>
        <source>Colour of marks</source>
        <translation>Farbe der Marken</translation>
    </message>
    <message>
        <source>where it is needed</source>
        <translation>wo nötig</translation>
    </message>
    <message>
        <source>none</source>
        <translation>keiner</translation>
    </message>
    <message>
        <source>backing</source>
        <translation>Hintergrund</translation>
    </message>
    <message>
        <source>Backing of text</source>
        <translation>Hintergrund des Textes</translation>
    </message>
    <message>
        <source>font</source>
        <translation>Schrift</translation>
    </message>
    <message>
        <source>Font of text</source>
        <translation>Schrift des Textes</translation>
    </message>
    <message>
        <source>Ends of bars</source>
        <translation>Enden der Balken</translation>
    </message>
    <message>
        <source>plain</source>
        <translation>glatt</translation>
    </message>
    <message>
        <source>ticks</source>
        <translation>Striche</translation>
    </message>
    <message>
        <source>bar&apos;s ends</source>
        <translation>Balkenenden</translation>
    </message>
    <message>
        <source>Styles in the library</source>
        <translation>Aussehen in der Sammlung</translation>
    </message>
    <message>
        <source>saved styles</source>
        <translation>gespeicherte</translation>
    </message>
    <message>
        <source>Taken over; the next picture begins with “%1”, too.</source>
        <translation>Übernommen; auch das nächste Bild beginnt mit „%1“.</translation>
    </message>
    <message>
        <source>Name of the style</source>
        <translation>Name des Aussehens</translation>
    </message>
    <message>
        <source>name, such as the paper</source>
        <translation>Name, etwa der Zeitschrift</translation>
    </message>
    <message>
        <source>Keep this style in the library</source>
        <translation>Dieses Aussehen in der Sammlung behalten</translation>
    </message>
    <message>
        <source>What the library of styles says</source>
        <translation>Was die Sammlung der Aussehen sagt</translation>
    </message>
    <message>
        <source>Kept as “%1”; new pictures begin with it.</source>
        <translation>Behalten als „%1“; neue Bilder beginnen damit.</translation>
    </message>
    <message>
        <source>usual</source>
        <translation>üblich</translation>
    </message>
    <message>
        <source>Masks: what matching leaves out</source>
        <translation>Masken: was beim Zuordnen ausbleibt</translation>
    </message>
    <message>
        <source>Masks</source>
        <translation>Masken</translation>
    </message>
    <message>
        <source>How much is left out</source>
        <translation>Wie viel ausbleibt</translation>
    </message>
    <message>
        <source>Ring</source>
        <translation>Ring</translation>
    </message>
    <message>
        <source>Draw: </source>
        <translation>Zeichnen: </translation>
    </message>
    <message>
        <source>Suggest glare</source>
        <translation>Glanz vorschlagen</translation>
    </message>
    <message>
        <source>Suggest flat parts</source>
        <translation>Flaches vorschlagen</translation>
    </message>
    <message>
        <source>What the mask does</source>
        <translation>Was die Maske tut</translation>
    </message>
    <message>
        <source>leave out</source>
        <translation>auslassen</translation>
    </message>
    <message>
        <source>Frames that the mask is for</source>
        <translation>Bilder, für die die Maske gilt</translation>
    </message>
    <message>
        <source>all, or 1, 3-5</source>
        <translation>alle, oder 1, 3-5</translation>
    </message>
    <message>
        <source>frames</source>
        <translation>Bilder</translation>
    </message>
    <message>
        <source>&quot;%1&quot; are no frames of this sequence. Give all, or numbers such as 1, 3-5.</source>
        <translation>„%1“ sind keine Bilder dieser Reihe. Geben Sie „alle“ an, oder Nummern wie 1, 3-5.</translation>
    </message>
    <message>
        <source>mask number %1</source>
        <translation>Maske Nummer %1</translation>
    </message>
    <message>
        <source>Remove this mask</source>
        <translation>Diese Maske entfernen</translation>
    </message>
    <message>
        <source>Load masks…</source>
        <translation>Masken laden …</translation>
    </message>
    <message>
        <source>Masks, or a chain that has some</source>
        <translation>Masken, oder eine Kette, die welche hat</translation>
    </message>
    <message>
        <source>Masks and chains (*.json)</source>
        <translation>Masken und Ketten (*.json)</translation>
    </message>
    <message>
        <source>Save masks…</source>
        <translation>Masken speichern …</translation>
    </message>
    <message>
        <source>Save the masks</source>
        <translation>Die Masken speichern</translation>
    </message>
    <message>
        <source>Masks (*.fexel.json)</source>
        <translation>Masken (*.fexel.json)</translation>
    </message>
    <message>
        <source>What the masks leave out</source>
        <translation>Was die Masken auslassen</translation>
    </message>
    <message>
        <source>Click the corners; Return or a double click closes, Backspace takes one back</source>
        <translation>Die Ecken anklicken; Eingabe oder Doppelklick schließt, Rücktaste nimmt eine zurück</translation>
    </message>
    <message>
        <source>add a mask</source>
        <translation>eine Maske hinzufügen</translation>
    </message>
    <message>
        <source>Drag from corner to corner of what is not to be used</source>
        <translation>Von Ecke zu Ecke dessen ziehen, was nicht verwendet werden soll</translation>
    </message>
    <message>
        <source>Drag from the centre to the edge</source>
        <translation>Von der Mitte zum Rand ziehen</translation>
    </message>
    <message>
        <source>mask %1</source>
        <translation>Maske %1</translation>
    </message>
    <message>
        <source>Looking…</source>
        <translation>Es wird gesucht …</translation>
    </message>
    <message>
        <source>Nothing in this frame is saturated over more than 32 px.</source>
        <translation>In diesem Bild ist nichts über mehr als 32 px gesättigt.</translation>
    </message>
    <message>
        <source>No part of this frame is flatter than the rest.</source>
        <translation>Kein Teil dieses Bildes ist flacher als der Rest.</translation>
    </message>
    <message>
        <source>suggest masks</source>
        <translation>Masken vorschlagen</translation>
    </message>
    <message>
        <source>%1 suggested from this frame. Move, change or remove them as you see fit.</source>
        <translation>%1 aus diesem Bild vorgeschlagen. Verschieben, ändern oder entfernen Sie sie nach Belieben.</translation>
    </message>
    <message>
        <source>load masks</source>
        <translation>Masken laden</translation>
    </message>
    <message>
        <source>One mask was read from %1.</source>
        <translation>Eine Maske wurde aus %1 gelesen.</translation>
    </message>
    <message>
        <source>%1 masks were read from %2.</source>
        <translation>%1 Masken wurden aus %2 gelesen.</translation>
    </message>
    <message>
        <source>Saved: %1.</source>
        <translation>Gespeichert: %1.</translation>
    </message>
    <message>
        <source>, frames %1</source>
        <translation>, Bilder %1</translation>
    </message>
    <message>
        <source>%1 % of this frame is left out of matching.</source>
        <translation>%1 % dieses Bildes bleiben beim Zuordnen aus.</translation>
    </message>
    <message>
        <source>outer radius</source>
        <translation>äußerer Radius</translation>
    </message>
    <message>
        <source>inner radius</source>
        <translation>innerer Radius</translation>
    </message>
    <message>
        <source>mask: %1</source>
        <translation>Maske: %1</translation>
    </message>
    <message>
        <source>Source to result, on (x, y, 1)</source>
        <translation>Quelle zu Ergebnis, (x, y, 1)</translation>
    </message>
    <message>
        <source>Matrix row %1, column %2</source>
        <translation>Matrix Zeile %1, Spalte %2</translation>
    </message>
    <message>
        <source>Paste nine numbers</source>
        <translation>Neun Zahlen einfügen</translation>
    </message>
    <message>
        <source>Change nothing (identity)</source>
        <translation>Nichts ändern (Identität)</translation>
    </message>
    <message>
        <source>The clipboard holds %1 numbers; a matrix has nine, in three rows.</source>
        <translation>Die Zwischenablage hat %1 Zahlen; eine Matrix hat neun, in drei Zeilen.</translation>
    </message>
    <message>
        <source>A projective map: scale varies over the picture.</source>
        <translation>Eine projektive Abbildung: Der Maßstab schwankt über das Bild.</translation>
    </message>
    <message>
        <source>An affine map: parallel lines stay parallel.</source>
        <translation>Eine affine Abbildung: Parallelen bleiben parallel.</translation>
    </message>
    <message>
        <source>The middle goes from %1, %2 to %3, %4.</source>
        <translation>Die Mitte geht von %1, %2 nach %3, %4.</translation>
    </message>
    <message>
        <source>There it enlarges %1 times one way and %2 times the other%3.</source>
        <translation>Dort vergrößert sie in einer Richtung %1-mal und in der anderen %2-mal%3.</translation>
    </message>
    <message>
        <source>, and mirrors</source>
        <translation>, und spiegelt</translation>
    </message>
    <message>
        <source>Chart of the lengths&apos; errors at B</source>
        <translation>Diagramm der Abweichungen der Längen bei B</translation>
    </message>
    <message>
        <source>error at B, %1</source>
        <translation>Abw. bei B, %1</translation>
    </message>
    <message>
        <source>placing its points</source>
        <translation>Setzen ihrer Punkte</translation>
    </message>
    <message>
        <source>the corners of the rectangle</source>
        <translation>die Ecken des Rechtecks</translation>
    </message>
    <message>
        <source>the estimated ratio of the sides</source>
        <translation>das geschätzte Seitenverhältnis</translation>
    </message>
    <message>
        <source>the known lengths that give the scale</source>
        <translation>die bekannten Längen, die den Maßstab geben</translation>
    </message>
    <message>
        <source>the calibration</source>
        <translation>die Kalibrierung</translation>
    </message>
    <message>
        <source>the control points</source>
        <translation>die Passpunkte</translation>
    </message>
    <message>
        <source>A, %1</source>
        <translation>A, %1</translation>
    </message>
    <message>
        <source>value at A, %1</source>
        <translation>Wert bei A, %1</translation>
    </message>
    <message>
        <source>B, %1</source>
        <translation>B, %1</translation>
    </message>
    <message>
        <source>value at B, %1</source>
        <translation>Wert bei B, %1</translation>
    </message>
    <message>
        <source>true, %1</source>
        <translation>wahr, %1</translation>
    </message>
    <message>
        <source>expected, %1</source>
        <translation>erwartet, %1</translation>
    </message>
    <message>
        <source>error, %1</source>
        <translation>Abw., %1</translation>
    </message>
    <message>
        <source>±, %1</source>
        <translation>±, %1</translation>
    </message>
    <message>
        <source>± at B, %1</source>
        <translation>± bei B, %1</translation>
    </message>
    <message>
        <source>Standard uncertainty. Points placed to %1 px of the source, at the zoom of placing.</source>
        <translation>Standardunsicherheit. Punkte auf %1 px der Quelle gesetzt, bei der Vergrößerung des Setzens.</translation>
    </message>
    <message>
        <source>name %1</source>
        <translation>%1 benennen</translation>
    </message>
    <message>
        <source>“%1” is no length above zero. Give it in %2, or with its unit, as 12.5 cm.</source>
        <translation>„%1“ ist keine Länge über null. Geben Sie sie in %2 an, oder mit ihrer Einheit, wie 12,5 cm.</translation>
    </message>
    <message>
        <source>expected length</source>
        <translation>erwartete Länge</translation>
    </message>
    <message>
        <source>What changes places</source>
        <translation>Was den Platz tauscht</translation>
    </message>
    <message>
        <source>up ↕ down</source>
        <translation>oben ↕ unten</translation>
    </message>
    <message>
        <source>%1 have changed places: a mirror image, in which letters read backwards; not a half turn. %2</source>
        <translation>%1 haben den Platz getauscht: ein Spiegelbild, in dem Buchstaben rückwärts stehen, keine halbe Drehung. %2</translation>
    </message>
    <message>
        <source>Left and right</source>
        <translation>Links und rechts</translation>
    </message>
    <message>
        <source>Upper and lower side</source>
        <translation>Oben und unten</translation>
    </message>
    <message>
        <source>No point of the grid lies in this area: draw a larger one.</source>
        <translation>In dieser Fläche liegt kein Punkt des Gitters: Zeichnen Sie eine größere.</translation>
    </message>
    <message>
        <source>opening the movement</source>
        <translation>Bewegung wird geöffnet</translation>
    </message>
    <message>
        <source>keeping the movement</source>
        <translation>Bewegung wird behalten</translation>
    </message>
    <message>
        <source>The movement is not kept beside the chain (%1): %2</source>
        <translation>Die Bewegung wird nicht neben der Kette behalten (%1): %2</translation>
    </message>
    <message>
        <source>x velocity</source>
        <translation>Geschwindigkeit in x</translation>
    </message>
    <message>
        <source>x displacement</source>
        <translation>Verschiebung in x</translation>
    </message>
    <message>
        <source>y velocity</source>
        <translation>Geschwindigkeit in y</translation>
    </message>
    <message>
        <source>y displacement</source>
        <translation>Verschiebung in y</translation>
    </message>
    <message>
        <source>speed</source>
        <translation>Betrag der Geschwindigkeit</translation>
    </message>
    <message>
        <source>displacement</source>
        <translation>Verschiebung</translation>
    </message>
    <message>
        <source>strain xx</source>
        <translation>Dehnung xx</translation>
    </message>
    <message>
        <source>strain yy</source>
        <translation>Dehnung yy</translation>
    </message>
    <message>
        <source>strain xy</source>
        <translation>Dehnung xy</translation>
    </message>
    <message>
        <source>largest strain</source>
        <translation>größte Dehnung</translation>
    </message>
    <message>
        <source>largest shear</source>
        <translation>größte Scherung</translation>
    </message>
    <message>
        <source>rotation</source>
        <translation>Drehung</translation>
    </message>
    <message>
        <source>vorticity</source>
        <translation>Wirbelstärke</translation>
    </message>
    <message>
        <source>divergence</source>
        <translation>Divergenz</translation>
    </message>
    <message>
        <source>shear rate</source>
        <translation>Scherrate</translation>
    </message>
    <message>
        <source>RMS fluctuation</source>
        <translation>RMS-Schwankung</translation>
    </message>
    <message>
        <source>1/frame</source>
        <translation>1/Bild</translation>
    </message>
    <message>
        <source>%1: no vector lies there.</source>
        <translation>%1: Dort liegt kein Vektor.</translation>
    </message>
    <message>
        <source>/frame</source>
        <translation>/Bild</translation>
    </message>
    <message>
        <source>%1: circulation %2 ± %3 %4, counter-clockwise positive</source>
        <translation>%1: Zirkulation %2 ± %3 %4, gegen den Uhrzeigersinn positiv</translation>
    </message>
    <message>
        <source>%1: %2 ± %3 %4 flow through to its right</source>
        <translation>%1: %2 ± %3 %4 fließen zu ihrer Rechten hindurch</translation>
    </message>
    <message>
        <source>, of the %1 % of it that have vectors</source>
        <translation>, von den %1 % davon, die Vektoren haben</translation>
    </message>
    <message>
        <source>Chart of the movement</source>
        <translation>Diagramm der Bewegung</translation>
    </message>
    <message>
        <source>over the frames</source>
        <translation>über die Bilder</translation>
    </message>
    <message>
        <source>along the profile</source>
        <translation>entlang des Profils</translation>
    </message>
    <message>
        <source>scatter of x and y displacement: drag a rectangle to set limits</source>
        <translation>Streubild der Verschiebung in x und y: ein Rechteck ziehen, um Grenzen zu setzen</translation>
    </message>
    <message>
        <source>histogram of what is shown</source>
        <translation>Häufigkeiten dessen, was gezeigt wird</translation>
    </message>
    <message>
        <source>pair</source>
        <translation>Paar</translation>
    </message>
    <message>
        <source>movement: limits</source>
        <translation>Bewegung: Grenzen</translation>
    </message>
    <message>
        <source>length %1, change</source>
        <translation>Länge %1, Änderung</translation>
    </message>
    <message>
        <source>mean of all points</source>
        <translation>Mittel aller Punkte</translation>
    </message>
    <message>
        <source>along the line, %1</source>
        <translation>entlang der Linie, %1</translation>
    </message>
    <message>
        <source>x displacement, px</source>
        <translation>Verschiebung in x, px</translation>
    </message>
    <message>
        <source>kept</source>
        <translation>behalten</translation>
    </message>
    <message>
        <source>taken out</source>
        <translation>entfernt</translation>
    </message>
    <message>
        <source>points</source>
        <translation>Punkte</translation>
    </message>
    <message>
        <source>settings have changed: measure again</source>
        <translation>Einstellungen haben sich geändert: neu messen</translation>
    </message>
    <message>
        <source>not measured yet</source>
        <translation>noch nicht gemessen</translation>
    </message>
    <message>
        <source>%1 pairs, %2 points</source>
        <translation>%1 Paare, %2 Punkte</translation>
    </message>
    <message>
        <source>%1 frames, %2 points</source>
        <translation>%1 Bilder, %2 Punkte</translation>
    </message>
    <message>
        <source>vorticity, divergence, shear rate</source>
        <translation>Wirbelstärke, Divergenz, Scherrate</translation>
    </message>
    <message>
        <source>strain and rotation</source>
        <translation>Dehnung und Drehung</translation>
    </message>
    <message>
        <source>movement: %1</source>
        <translation>Bewegung: %1</translation>
    </message>
    <message>
        <source>a surface (subsets)</source>
        <translation>eine Oberfläche (Felder)</translation>
    </message>
    <message>
        <source>a fluid (windows)</source>
        <translation>ein Fluid (Fenster)</translation>
    </message>
    <message>
        <source>what moves</source>
        <translation>was sich bewegt</translation>
    </message>
    <message>
        <source>Matched against</source>
        <translation>Zugeordnet gegen</translation>
    </message>
    <message>
        <source>in pairs, a and b</source>
        <translation>in Paaren, a und b</translation>
    </message>
    <message>
        <source>matched against</source>
        <translation>zugeordnet gegen</translation>
    </message>
    <message>
        <source>renew the reference where needed</source>
        <translation>Bezugsbild erneuern, wo nötig</translation>
    </message>
    <message>
        <source>reference</source>
        <translation>Bezugsbild</translation>
    </message>
    <message>
        <source>Where</source>
        <translation>Wo</translation>
    </message>
    <message>
        <source>Draw a region…</source>
        <translation>Bereich zeichnen …</translation>
    </message>
    <message>
        <source>Whole picture</source>
        <translation>Ganzes Bild</translation>
    </message>
    <message>
        <source>Click the corners of the region; Return or a double click closes it</source>
        <translation>Die Ecken des Bereichs anklicken; Eingabe oder Doppelklick schließt</translation>
    </message>
    <message>
        <source>region</source>
        <translation>Bereich</translation>
    </message>
    <message>
        <source>Prepare, for matching only</source>
        <translation>Vorbereiten, nur zum Zuordnen</translation>
    </message>
    <message>
        <source>high-pass radius</source>
        <translation>Hochpass-Radius</translation>
    </message>
    <message>
        <source>High-pass radius</source>
        <translation>Hochpass-Radius</translation>
    </message>
    <message>
        <source>Takes slow changes of light out; 0 leaves the frames as they are</source>
        <translation>Nimmt langsame Helligkeitsverläufe heraus; 0 lässt die Bilder, wie sie sind</translation>
    </message>
    <message>
        <source>local contrast</source>
        <translation>lokaler Kontrast</translation>
    </message>
    <message>
        <source>smoothing radius</source>
        <translation>Glättungsradius</translation>
    </message>
    <message>
        <source>Smoothing</source>
        <translation>Glättung</translation>
    </message>
    <message>
        <source>Grid</source>
        <translation>Gitter</translation>
    </message>
    <message>
        <source>spacing</source>
        <translation>Abstand</translation>
    </message>
    <message>
        <source>Spacing of points</source>
        <translation>Abstand der Punkte</translation>
    </message>
    <message>
        <source>subset size</source>
        <translation>Feldgröße</translation>
    </message>
    <message>
        <source>Subset size</source>
        <translation>Feldgröße</translation>
    </message>
    <message>
        <source>search reaches</source>
        <translation>Suche reicht</translation>
    </message>
    <message>
        <source>Reach of the first search</source>
        <translation>Reichweite der ersten Suche</translation>
    </message>
    <message>
        <source>Overlap of subsets</source>
        <translation>Überlappung der Felder</translation>
    </message>
    <message>
        <source>What the texture promises</source>
        <translation>Was die Textur verspricht</translation>
    </message>
    <message>
        <source>Wanted uncertainty</source>
        <translation>Gewünschte Unsicherheit</translation>
    </message>
    <message>
        <source>wanted ±</source>
        <translation>gewünschtes ±</translation>
    </message>
    <message>
        <source>Check the texture</source>
        <translation>Textur prüfen</translation>
    </message>
    <message>
        <source>Shows how well each point of the grid can be found, before anything is measured</source>
        <translation>Zeigt, wie gut sich jeder Punkt des Gitters finden lässt, bevor etwas gemessen wird</translation>
    </message>
    <message>
        <source>Take the proposed size</source>
        <translation>Vorgeschlagene Größe nehmen</translation>
    </message>
    <message>
        <source>Measure</source>
        <translation>Messen</translation>
    </message>
    <message>
        <source>match the way back, too</source>
        <translation>auch den Rückweg zuordnen</translation>
    </message>
    <message>
        <source>Measure all frames</source>
        <translation>Alle Bilder messen</translation>
    </message>
    <message>
        <source>What was found</source>
        <translation>Was gefunden wurde</translation>
    </message>
    <message>
        <source>Clean up</source>
        <translation>Bereinigen</translation>
    </message>
    <message>
        <source>Rule: %1</source>
        <translation>Regel: %1</translation>
    </message>
    <message>
        <source>What the rule does: %1</source>
        <translation>Was die Regel tut: %1</translation>
    </message>
    <message>
        <source>Limit: %1</source>
        <translation>Grenze: %1</translation>
    </message>
    <message>
        <source>fill holes; they stay marked</source>
        <translation>Lücken füllen; sie bleiben markiert</translation>
    </message>
    <message>
        <source>holes</source>
        <translation>Lücken</translation>
    </message>
    <message>
        <source>Derive</source>
        <translation>Ableiten</translation>
    </message>
    <message>
        <source>strain</source>
        <translation>Dehnung</translation>
    </message>
    <message>
        <source>window</source>
        <translation>Fenster</translation>
    </message>
    <message>
        <source>Window of strain</source>
        <translation>Fenster der Dehnung</translation>
    </message>
    <message>
        <source>Green–Lagrange: large strains</source>
        <translation>Green–Lagrange: große Dehnungen</translation>
    </message>
    <message>
        <source>Gauge length</source>
        <translation>Messlänge</translation>
    </message>
    <message>
        <source>Look</source>
        <translation>Ansehen</translation>
    </message>
    <message>
        <source>Shown as</source>
        <translation>Gezeigt als</translation>
    </message>
    <message>
        <source>arrows</source>
        <translation>Pfeile</translation>
    </message>
    <message>
        <source>map</source>
        <translation>Karte</translation>
    </message>
    <message>
        <source>contours</source>
        <translation>Höhenlinien</translation>
    </message>
    <message>
        <source>tracked points</source>
        <translation>verfolgte Punkte</translation>
    </message>
    <message>
        <source>deformed grid</source>
        <translation>verformtes Gitter</translation>
    </message>
    <message>
        <source>streamlines</source>
        <translation>Stromlinien</translation>
    </message>
    <message>
        <source>shown as</source>
        <translation>gezeigt als</translation>
    </message>
    <message>
        <source>Quantity</source>
        <translation>Größe</translation>
    </message>
    <message>
        <source>colours tell</source>
        <translation>Farben sagen</translation>
    </message>
    <message>
        <source>Enlarged</source>
        <translation>Vergrößert</translation>
    </message>
    <message>
        <source>How many times displacements are drawn as long; 0 chooses</source>
        <translation>Wie viel länger Verschiebungen gezeichnet werden; 0 wählt selbst</translation>
    </message>
    <message>
        <source>one range of colours for all</source>
        <translation>ein Farbbereich für alle</translation>
    </message>
    <message>
        <source>Chart a point…</source>
        <translation>Punkt auftragen …</translation>
    </message>
    <message>
        <source>Click a point: its course over the frames is charted</source>
        <translation>Einen Punkt anklicken: Sein Verlauf über die Bilder wird aufgetragen</translation>
    </message>
    <message>
        <source>Chart a length…</source>
        <translation>Länge auftragen …</translation>
    </message>
    <message>
        <source>Click two points: their distance over the frames is charted</source>
        <translation>Zwei Punkte anklicken: Ihr Abstand über die Bilder wird aufgetragen</translation>
    </message>
    <message>
        <source>Chart an area…</source>
        <translation>Fläche auftragen …</translation>
    </message>
    <message>
        <source>Click corners, Return closes: the mean over the frames is charted</source>
        <translation>Ecken anklicken, Eingabe schließt: Das Mittel über die Bilder wird aufgetragen</translation>
    </message>
    <message>
        <source>Profile…</source>
        <translation>Profil …</translation>
    </message>
    <message>
        <source>Click two points: what is shown is charted along the line</source>
        <translation>Zwei Punkte anklicken: Was gezeigt wird, wird entlang der Linie aufgetragen</translation>
    </message>
    <message>
        <source>Clear the charts</source>
        <translation>Diagramme leeren</translation>
    </message>
    <message>
        <source>How far to trust it</source>
        <translation>Wie weit man ihr trauen kann</translation>
    </message>
    <message>
        <source>Test on a known movement</source>
        <translation>An bekannter Bewegung prüfen</translation>
    </message>
    <message>
        <source>Moves this frame by a known field, and measures it with these settings</source>
        <translation>Bewegt dieses Bild um ein bekanntes Feld und misst es mit diesen Einstellungen</translation>
    </message>
    <message>
        <source>Nothing moved here: say the noise</source>
        <translation>Nichts bewegte sich: Rauschen nennen</translation>
    </message>
    <message>
        <source>What is then measured is the noise of displacement and strain on this set-up</source>
        <translation>Was dann gemessen wird, ist das Rauschen von Verschiebung und Dehnung an diesem Aufbau</translation>
    </message>
    <message>
        <source>Out</source>
        <translation>Ausgabe</translation>
    </message>
    <message>
        <source>Table…</source>
        <translation>Tabelle …</translation>
    </message>
    <message>
        <source>Maps…</source>
        <translation>Karten …</translation>
    </message>
    <message>
        <source>For viewers…</source>
        <translation>Für Betrachter …</translation>
    </message>
    <message>
        <source>Mean…</source>
        <translation>Mittel …</translation>
    </message>
    <message>
        <source>Export: %1</source>
        <translation>Ausgeben: %1</translation>
    </message>
    <message>
        <source>Remove the movement</source>
        <translation>Bewegung entfernen</translation>
    </message>
    <message>
        <source>remove the movement</source>
        <translation>die Bewegung entfernen</translation>
    </message>
    <message>
        <source>Noise of at most %1 grey levels: %2 % of the points can be found to ± %3 px or better.</source>
        <translation>Rauschen von höchstens %1 Grauwerten: %2 % der Punkte lassen sich auf ± %3 px oder besser finden.</translation>
    </message>
    <message>
        <source>The smallest size at which 95 % can is %1 px.</source>
        <translation>Die kleinste Größe, bei der es 95 % sind, ist %1 px.</translation>
    </message>
    <message>
        <source>No size up to 101 px is enough for 95 % of them.</source>
        <translation>Keine Größe bis 101 px reicht für 95 % davon.</translation>
    </message>
    <message>
        <source>−%1, %2 px</source>
        <translation>−%1, %2 px</translation>
    </message>
    <message>
        <source>drawn on the scatter</source>
        <translation>im Streubild gezeichnet</translation>
    </message>
    <message>
        <source>Points taken out, and by how much the mean of the rest moves</source>
        <translation>Entfernte Punkte, und wie weit sich das Mittel der übrigen verschiebt</translation>
    </message>
    <message>
        <source>The settings or the chain have changed since: measure again, or undo.</source>
        <translation>Die Einstellungen oder die Kette haben sich seither geändert: Messen Sie neu, oder machen Sie es rückgängig.</translation>
    </message>
    <message>
        <source>Mean of %1 fields</source>
        <translation>Mittel von %1 Feldern</translation>
    </message>
    <message>
        <source>Frame %1</source>
        <translation>Bild %1</translation>
    </message>
    <message>
        <source>: %1 of %2 points are ok</source>
        <translation>: %1 von %2 Punkten sind gut</translation>
    </message>
    <message>
        <source>. Mean %1, %2 %4; a point is known to ± %3 %4.</source>
        <translation>. Mittel %1, %2 %4; ein Punkt ist auf ± %3 %4 bekannt.</translation>
    </message>
    <message>
        <source>The reference was renewed at frame %1.</source>
        <translation>Das Bezugsbild wurde bei Bild %1 erneuert.</translation>
    </message>
    <message>
        <source>%1 frames are measured; this one leads nowhere: displacements begin here, or it was left out.</source>
        <translation>%1 Bilder sind gemessen; dieses führt nirgendwohin: Hier beginnen die Verschiebungen, oder es war weggelassen.</translation>
    </message>
    <message>
        <source>%1 pairs are measured.</source>
        <translation>%1 Paare sind gemessen.</translation>
    </message>
    <message>
        <source>%1 frames are measured.</source>
        <translation>%1 Bilder sind gemessen.</translation>
    </message>
    <message>
        <source>The whole picture, but for masks.</source>
        <translation>Das ganze Bild, bis auf Masken.</translation>
    </message>
    <message>
        <source>A region with %1 corners, but for masks.</source>
        <translation>Ein Bereich mit %1 Ecken, bis auf Masken.</translation>
    </message>
    <message>
        <source>Neighbours share %1 % of their pixels: they are not independent.</source>
        <translation>Nachbarn teilen %1 % ihrer Pixel: Sie sind nicht unabhängig.</translation>
    </message>
    <message>
        <source>Neighbours do not overlap.</source>
        <translation>Nachbarn überlappen nicht.</translation>
    </message>
    <message>
        <source>One picture is open: movement needs a sequence of frames.</source>
        <translation>Ein Bild ist offen: Bewegung braucht eine Reihe von Bildern.</translation>
    </message>
    <message>
        <source>Each is a mean over %1 px</source>
        <translation>Jede ist ein Mittel über %1 px</translation>
    </message>
    <message>
        <source>, known to ± %1 %</source>
        <translation>, bekannt auf ± %1 %</translation>
    </message>
    <message>
        <source>More pixels</source>
        <translation>Mehr Pixel</translation>
    </message>
    <message>
        <source>What they show</source>
        <translation>Was sie zeigen</translation>
    </message>
    <message>
        <source>as the result: empty</source>
        <translation>wie das Ergebnis: leer</translation>
    </message>
    <message>
        <source>border mode</source>
        <translation>Randregel</translation>
    </message>
    <message>
        <source>What was added is empty, and never measured.</source>
        <translation>Was angefügt wurde, ist leer und wird nie gemessen.</translation>
    </message>
    <message>
        <source>What was added has one value, and is empty.</source>
        <translation>Was angefügt wurde, hat einen Wert und ist leer.</translation>
    </message>
    <message>
        <source>What was added repeats the picture by the rule “%1”: it is no new information.</source>
        <translation>Was angefügt wurde, wiederholt das Bild nach der Regel „%1“: Es ist nichts Neues.</translation>
    </message>
    <message>
        <source>The picture&apos;s own pixels are moved bit for bit.</source>
        <translation>Die Pixel des Bildes selbst werden Bit für Bit verschoben.</translation>
    </message>
    <message>
        <source>place a pair</source>
        <translation>ein Paar setzen</translation>
    </message>
    <message>
        <source>Click a point here, then the same point on the other picture; Escape ends</source>
        <translation>Hier einen Punkt anklicken, dann denselben im anderen Bild; Esc beendet</translation>
    </message>
    <message>
        <source>Now click the same point on the other picture; Backspace takes it back</source>
        <translation>Jetzt denselben Punkt im anderen Bild anklicken; Rücktaste nimmt ihn zurück</translation>
    </message>
    <message>
        <source>Click the point, or press Return to take the place that is expected</source>
        <translation>Den Punkt anklicken, oder Eingabe drücken, um die erwartete Stelle zu nehmen</translation>
    </message>
    <message>
        <source>Click the same point here</source>
        <translation>Denselben Punkt hier anklicken</translation>
    </message>
    <message>
        <source>Pairs</source>
        <translation>Paare</translation>
    </message>
    <message>
        <source>Beside the pairs</source>
        <translation>Neben den Paaren</translation>
    </message>
    <message>
        <source>models side by side</source>
        <translation>Modelle nebeneinander</translation>
    </message>
    <message>
        <source>residuals in order of entry</source>
        <translation>Restabweichungen in der Reihenfolge der Eingabe</translation>
    </message>
    <message>
        <source>residuals against x</source>
        <translation>Restabweichungen gegen x</translation>
    </message>
    <message>
        <source>residuals against y</source>
        <translation>Restabweichungen gegen y</translation>
    </message>
    <message>
        <source>Models</source>
        <translation>Modelle</translation>
    </message>
    <message>
        <source>Residuals</source>
        <translation>Restabweichungen</translation>
    </message>
    <message>
        <source>RMS, px</source>
        <translation>RMS, px</translation>
    </message>
    <message>
        <source>left out, px</source>
        <translation>weg, px</translation>
    </message>
    <message>
        <source>dx</source>
        <translation>dx</translation>
    </message>
    <message>
        <source>dy</source>
        <translation>dy</translation>
    </message>
    <message>
        <source>outlier, beyond</source>
        <translation>Ausreißer, außerhalb</translation>
    </message>
    <message>
        <source>from x, px</source>
        <translation>von x, px</translation>
    </message>
    <message>
        <source>from y, px</source>
        <translation>von y, px</translation>
    </message>
    <message>
        <source>fitted − given, px</source>
        <translation>angepasst − vorgegeben, px</translation>
    </message>
    <message>
        <source>choose a model</source>
        <translation>ein Modell wählen</translation>
    </message>
    <message>
        <source>add a pair</source>
        <translation>ein Paar hinzufügen</translation>
    </message>
    <message>
        <source>remove a pair</source>
        <translation>ein Paar entfernen</translation>
    </message>
    <message>
        <source>remove pairs</source>
        <translation>Paare entfernen</translation>
    </message>
    <message>
        <source>none yet: open a reference, and click a point on either picture</source>
        <translation>noch keine: ein Bezugsbild öffnen und in einem der Bilder einen Punkt anklicken</translation>
    </message>
    <message>
        <source>%1 of %2 pairs in the fit, %3 px RMS</source>
        <translation>%1 von %2 Paaren in der Anpassung, %3 px RMS</translation>
    </message>
    <message>
        <source>; %1 check points, %2 px RMS</source>
        <translation>; %1 Prüfpunkte, %2 px RMS</translation>
    </message>
    <message>
        <source>It is left out</source>
        <translation>Es ist weggelassen</translation>
    </message>
    <message>
        <source>no</source>
        <translation>nein</translation>
    </message>
    <message>
        <source>It is kept out of the fit, and checks it</source>
        <translation>Es bleibt aus der Anpassung heraus und prüft sie</translation>
    </message>
    <message>
        <source>check</source>
        <translation>prüfen</translation>
    </message>
    <message>
        <source>It disagrees with the rest, and counts for nothing</source>
        <translation>Es widerspricht den übrigen und zählt nichts</translation>
    </message>
    <message>
        <source>outlier</source>
        <translation>Ausreißer</translation>
    </message>
    <message>
        <source>It counts. Type “check” to keep it out of the fit as a check point</source>
        <translation>Es zählt. Tippen Sie „prüfen“, um es als Prüfpunkt herauszuhalten</translation>
    </message>
    <message>
        <source>fit</source>
        <translation>passt</translation>
    </message>
    <message>
        <source>Whether the pair is used</source>
        <translation>Ob das Paar verwendet wird</translation>
    </message>
    <message>
        <source>How well each coordinate of the pair is known, in px of the result: pairs weigh by it. Empty: as placed by hand</source>
        <translation>Wie gut jede Koordinate des Paares bekannt ist, in px des Ergebnisses: Paare wiegen danach. Leer: wie von Hand gesetzt</translation>
    </message>
    <message>
        <source>How far the pair would lie off the fit of all others, in px</source>
        <translation>Wie weit das Paar neben der Anpassung aller anderen läge, in px</translation>
    </message>
    <message>
        <source>use</source>
        <translation>Rolle</translation>
    </message>
    <message>
        <source>to x, %1</source>
        <translation>→ x, %1</translation>
    </message>
    <message>
        <source>to y, %1</source>
        <translation>→ y, %1</translation>
    </message>
    <message>
        <source>±, px</source>
        <translation>±, px</translation>
    </message>
    <message>
        <source>dx, px</source>
        <translation>dx, px</translation>
    </message>
    <message>
        <source>dy, px</source>
        <translation>dy, px</translation>
    </message>
    <message>
        <source>off, px</source>
        <translation>Δ, px</translation>
    </message>
    <message>
        <source>change a pair</source>
        <translation>ein Paar ändern</translation>
    </message>
    <message>
        <source>Open a picture (Ctrl+O), or drop one here.</source>
        <translation>Ein Bild öffnen (Strg+O), oder hier ablegen.</translation>
    </message>
    <message>
        <source>A is the reference</source>
        <translation>A ist das Bezugsbild</translation>
    </message>
    <message>
        <source>A is kept, and carried to B&apos;s place</source>
        <translation>A ist behalten und an den Ort von B übertragen</translation>
    </message>
    <message>
        <source>A is kept, and shown as it lies</source>
        <translation>A ist behalten und gezeigt, wie es liegt</translation>
    </message>
    <message>
        <source>A carried to B&apos;s place by the chain</source>
        <translation>A durch die Kette an den Ort von B übertragen</translation>
    </message>
    <message>
        <source>A as it lies, pixel on pixel</source>
        <translation>A wie es liegt, Pixel auf Pixel</translation>
    </message>
    <message>
        <source>A brighter</source>
        <translation>A heller</translation>
    </message>
    <message>
        <source>alike</source>
        <translation>gleich</translation>
    </message>
    <message>
        <source>B brighter</source>
        <translation>B heller</translation>
    </message>
    <message>
        <source>0, B − A in grey levels</source>
        <translation>0, B − A in Grauwerten</translation>
    </message>
    <message>
        <source>reference: %1</source>
        <translation>Bezugsbild: %1</translation>
    </message>
    <message>
        <source>kept: %1</source>
        <translation>behalten: %1</translation>
    </message>
    <message>
        <source>after %1 %2</source>
        <translation>nach %1 %2</translation>
    </message>
    <message>
        <source> (not made)</source>
        <translation> (nicht ausgeführt)</translation>
    </message>
    <message>
        <source>Picture B</source>
        <translation>Bild B</translation>
    </message>
    <message>
        <source>Picture A</source>
        <translation>Bild A</translation>
    </message>
    <message>
        <source>Tab goes to the next handle, arrow keys move it by 1 px, with Shift by 0.1, with Ctrl by 10</source>
        <translation>Tab geht zum nächsten Griff, Pfeiltasten bewegen ihn um 1 px, mit Umschalt um 0,1, mit Strg um 10</translation>
    </message>
    <message>
        <source>The plane in space</source>
        <translation>Die Ebene im Raum</translation>
    </message>
    <message>
        <source>Drag to turn it; the arrow keys turn it by one degree</source>
        <translation>Ziehen, um sie zu drehen; die Pfeiltasten drehen sie um ein Grad</translation>
    </message>
    <message>
        <source>Setting: %1</source>
        <translation>Einstellung: %1</translation>
    </message>
    <message>
        <source>Click or Return to use it; drag to look elsewhere; wheel to zoom. The share of waves that is left is the kernel&apos;s frequency response.</source>
        <translation>Klicken oder Eingabe verwendet sie; ziehen, um anderswo zu sehen; Rad zum Vergrößern. Der Anteil der Wellen, der bleibt, ist der Frequenzgang des Kerns.</translation>
    </message>
    <message>
        <source>%1 · in use</source>
        <translation>%1 · verwendet</translation>
    </message>
    <message>
        <source>%1 ms</source>
        <translation>%1 ms</translation>
    </message>
    <message>
        <source>Proof sheet</source>
        <translation>Probebogen</translation>
    </message>
    <message>
        <source>differences ×%1</source>
        <translation>Differenzen ×%1</translation>
    </message>
    <message>
        <source>Show differences to the setting in use</source>
        <translation>Differenzen zur verwendeten Einstellung zeigen</translation>
    </message>
    <message>
        <source>save figure…</source>
        <translation>Abbildung speichern …</translation>
    </message>
    <message>
        <source>close</source>
        <translation>schließen</translation>
    </message>
    <message>
        <source>Close the proof sheet</source>
        <translation>Den Probebogen schließen</translation>
    </message>
    <message>
        <source>kernel</source>
        <translation>Kern</translation>
    </message>
    <message>
        <source>result of %1 × %2 px</source>
        <translation>Ergebnis von %1 × %2 px</translation>
    </message>
    <message>
        <source>for shrinking: the mean under each pixel</source>
        <translation>zum Verkleinern: das Mittel unter jedem Pixel</translation>
    </message>
    <message>
        <source>Choice: %1</source>
        <translation>Wahl: %1</translation>
    </message>
    <message>
        <source>about %1, %2 px of the source · %3 %</source>
        <translation>um %1, %2 px der Quelle · %3 %</translation>
    </message>
    <message>
        <source>take %1</source>
        <translation>%1 nehmen</translation>
    </message>
    <message>
        <source>differences to “%1”, %2 times</source>
        <translation>Differenzen zu „%1“, %2-fach</translation>
    </message>
    <message>
        <source>%1 %</source>
        <translation>%1 %</translation>
    </message>
    <message>
        <source>One spot, about %1, %2 px of the source, under: %3.</source>
        <translation>Eine Stelle, um %1, %2 px der Quelle, unter: %3.</translation>
    </message>
    <message>
        <source>Shown: %1.</source>
        <translation>Gezeigt: %1.</translation>
    </message>
    <message>
        <source>Rail: the chain of steps</source>
        <translation>Leiste: die Kette der Schritte</translation>
    </message>
    <message>
        <source>Add a step</source>
        <translation>Einen Schritt hinzufügen</translation>
    </message>
    <message>
        <source>Add a step (Insert)</source>
        <translation>Einen Schritt hinzufügen (Einfg)</translation>
    </message>
    <message>
        <source>Propose a rectangle</source>
        <translation>Rechteck vorschlagen</translation>
    </message>
    <message>
        <source>Look for the rectangle that stands out most</source>
        <translation>Das Rechteck suchen, das sich am meisten abhebt</translation>
    </message>
    <message>
        <source>Corners from edges</source>
        <translation>Ecken aus Kanten</translation>
    </message>
    <message>
        <source>Fit a line along each side, and take the corners where they meet</source>
        <translation>Entlang jeder Seite eine Linie anpassen und die Ecken nehmen, wo sie sich treffen</translation>
    </message>
    <message>
        <source>What the edges say</source>
        <translation>Was die Kanten sagen</translation>
    </message>
    <message>
        <source>Undo the lens</source>
        <translation>Objektiv aufheben</translation>
    </message>
    <message>
        <source>Put a lens step before this one that straightens the sides</source>
        <translation>Vor diesen einen Schritt Objektiv setzen, der die Seiten gerade zieht</translation>
    </message>
    <message>
        <source>propose a rectangle</source>
        <translation>ein Rechteck vorschlagen</translation>
    </message>
    <message>
        <source>Proposed: rectangle %1 of %2, the most distinct first. Propose again for the next, or drag the corners; then take them from edges.</source>
        <translation>Vorgeschlagen: Rechteck %1 von %2, das deutlichste zuerst. Schlagen Sie noch einmal vor für das nächste, oder ziehen Sie die Ecken; nehmen Sie sie dann aus Kanten.</translation>
    </message>
    <message>
        <source>Looking for a rectangle</source>
        <translation>Ein Rechteck wird gesucht</translation>
    </message>
    <message>
        <source>No rectangle stands out here. Drag the four corners onto one.</source>
        <translation>Hier hebt sich kein Rechteck ab. Ziehen Sie die vier Ecken auf eines.</translation>
    </message>
    <message>
        <source>Looking for edges</source>
        <translation>Kanten werden gesucht</translation>
    </message>
    <message>
        <source>corners from edges</source>
        <translation>Ecken aus Kanten</translation>
    </message>
    <message>
        <source>undo the lens</source>
        <translation>das Objektiv aufheben</translation>
    </message>
    <message>
        <source>Undo the lens: bow %1 px to %2 px</source>
        <translation>Objektiv aufheben: Bogen %1 px auf %2 px</translation>
    </message>
    <message>
        <source>Drag the corners on the picture, or take them from edges where the sides are straight.</source>
        <translation>Ziehen Sie die Ecken auf dem Bild, oder nehmen Sie sie aus Kanten, wo die Seiten gerade sind.</translation>
    </message>
    <message>
        <source>From edges, the corners to ± %1 px.</source>
        <translation>Aus Kanten, die Ecken auf ± %1 px.</translation>
    </message>
    <message>
        <source>The %1 side bows by %2 px: the lens, or the thing itself, is not straight.</source>
        <translation>Die Seite %1 biegt sich um %2 px: Das Objektiv, oder das Ding selbst, ist nicht gerade.</translation>
    </message>
    <message>
        <source>The %1 corner stays: its edges say no more than ± %2 px was known of it.</source>
        <translation>Die Ecke %1 bleibt: Ihre Kanten sagen nicht mehr, als auf ± %2 px bekannt war.</translation>
    </message>
    <message>
        <source>The sides are straight within %1 px.</source>
        <translation>Die Seiten sind auf %1 px gerade.</translation>
    </message>
    <message>
        <source> heights</source>
        <translation> Höhen</translation>
    </message>
    <message>
        <source>No length of this plane is known yet: give a scale to measure on it.</source>
        <translation>Noch ist keine Länge dieser Ebene bekannt: Geben Sie einen Maßstab an, um darauf zu messen.</translation>
    </message>
    <message>
        <source>the source shows no less than %1 %2</source>
        <translation>die Quelle zeigt nichts unter %1 %2</translation>
    </message>
    <message>
        <source>width / height is %1 ± %2 where the camera&apos;s axis meets the picture within 1 % of its middle: not in a cut-out of a larger picture.</source>
        <translation>Breite / Höhe ist %1 ± %2, wenn die Kameraachse das Bild auf 1 % seiner Mitte trifft: nicht in einem Ausschnitt eines größeren Bildes.</translation>
    </message>
    <message>
        <source>The real rectangle</source>
        <translation>Das wirkliche Rechteck</translation>
    </message>
    <message>
        <source>What is known of it</source>
        <translation>Was davon bekannt ist</translation>
    </message>
    <message>
        <source>sides</source>
        <translation>Seiten</translation>
    </message>
    <message>
        <source>estimate</source>
        <translation>schätzen</translation>
    </message>
    <message>
        <source>Width of the real rectangle</source>
        <translation>Breite des wirklichen Rechtecks</translation>
    </message>
    <message>
        <source>Height of the real rectangle</source>
        <translation>Höhe des wirklichen Rechtecks</translation>
    </message>
    <message>
        <source>not given</source>
        <translation>nicht angegeben</translation>
    </message>
    <message>
        <source>Unit of the sides</source>
        <translation>Einheit der Seiten</translation>
    </message>
    <message>
        <source>Width divided by height</source>
        <translation>Breite durch Höhe</translation>
    </message>
    <message>
        <source>width / height</source>
        <translation>Breite / Höhe</translation>
    </message>
    <message>
        <source>Estimated ratio</source>
        <translation>Geschätztes Verhältnis</translation>
    </message>
    <message>
        <source>What gives the scale</source>
        <translation>Was den Maßstab gibt</translation>
    </message>
    <message>
        <source>scale from</source>
        <translation>Maßstab aus</translation>
    </message>
    <message>
        <source>Corners</source>
        <translation>Ecken</translation>
    </message>
    <message>
        <source>Corner %1 (%2), %3</source>
        <translation>Ecke %1 (%2), %3</translation>
    </message>
    <message>
        <source>Put the corners in order</source>
        <translation>Ecken ordnen</translation>
    </message>
    <message>
        <source>The result</source>
        <translation>Das Ergebnis</translation>
    </message>
    <message>
        <source>How much of the plane</source>
        <translation>Wie viel von der Ebene</translation>
    </message>
    <message>
        <source>margin</source>
        <translation>Rand</translation>
    </message>
    <message>
        <source>whole view</source>
        <translation>alles Sichtbare</translation>
    </message>
    <message>
        <source>Pixel size</source>
        <translation>Pixelgröße</translation>
    </message>
    <message>
        <source>all detail</source>
        <translation>alle Feinheiten</translation>
    </message>
    <message>
        <source>pixels</source>
        <translation>Pixel</translation>
    </message>
    <message>
        <source>Margin around the rectangle</source>
        <translation>Rand um das Rechteck</translation>
    </message>
    <message>
        <source>Pixel size of the result</source>
        <translation>Pixelgröße des Ergebnisses</translation>
    </message>
    <message>
        <source>Width of the result</source>
        <translation>Breite des Ergebnisses</translation>
    </message>
    <message>
        <source>Height of the result</source>
        <translation>Höhe des Ergebnisses</translation>
    </message>
    <message>
        <source>Finest pixel size</source>
        <translation>Feinste Pixelgröße</translation>
    </message>
    <message>
        <source>What is corrected</source>
        <translation>Was berichtigt wird</translation>
    </message>
    <message>
        <source>turn</source>
        <translation>Drehung</translation>
    </message>
    <message>
        <source>skew</source>
        <translation>Scherung</translation>
    </message>
    <message>
        <source>perspective</source>
        <translation>Perspektive</translation>
    </message>
    <message>
        <source>Correct: %1</source>
        <translation>Berichtigen: %1</translation>
    </message>
    <message>
        <source>Sides not given: the ratio alone is used, and lengths have no unit.</source>
        <translation>Seiten nicht angegeben: Nur das Verhältnis wird verwendet, und Längen haben keine Einheit.</translation>
    </message>
    <message>
        <source>Both sides are known: lengths in the plane are true.</source>
        <translation>Beide Seiten sind bekannt: Längen in der Ebene stimmen.</translation>
    </message>
    <message>
        <source>The ratio alone is known: lengths have no unit without a scale.</source>
        <translation>Nur das Verhältnis ist bekannt: Längen haben ohne Maßstab keine Einheit.</translation>
    </message>
    <message>
        <source>the sides</source>
        <translation>den Seiten</translation>
    </message>
    <message>
        <source>nothing: no unit</source>
        <translation>nichts: keine Einheit</translation>
    </message>
    <message>
        <source>“%1”, %2 %3</source>
        <translation>„%1“, %2 %3</translation>
    </message>
    <message>
        <source>%1 %2 in the plane</source>
        <translation>%1 %2 in der Ebene</translation>
    </message>
    <message>
        <source>The known %1 %3 read %2 %3.</source>
        <translation>Die bekannten %1 %3 messen %2 %3.</translation>
    </message>
    <message>
        <source>By that length the sides are %1 × %2 %3; as given they are %4 × %5 %6.</source>
        <translation>Nach jener Länge sind die Seiten %1 × %2 %3; angegeben sind %4 × %5 %6.</translation>
    </message>
    <message>
        <source>Not all that the view needs is corrected: lengths are not true everywhere.</source>
        <translation>Nicht alles, was die Ansicht braucht, wird berichtigt: Längen stimmen nicht überall.</translation>
    </message>
    <message>
        <source>%1 of %2 known lengths are right within %3 %4.</source>
        <translation>%1 von %2 bekannten Längen stimmen auf %3 %4.</translation>
    </message>
    <message>
        <source>“%1” is off by %2%3 %4: it may stand off the plane, or a corner is wrong.</source>
        <translation>„%1“ weicht um %2%3 %4 ab: Sie steht vielleicht vor der Ebene, oder eine Ecke ist falsch.</translation>
    </message>
    <message>
        <source>Before, the same lengths differed by %1 %.</source>
        <translation>Vorher unterschieden sich dieselben Längen um %1 %.</translation>
    </message>
    <message>
        <source>Measure a known length (G) to check the result.</source>
        <translation>Messen Sie eine bekannte Länge (G), um das Ergebnis zu prüfen.</translation>
    </message>
    <message>
        <source>The pixels are finer than the source: this adds no detail.</source>
        <translation>Die Pixel sind feiner als die Quelle: Das gibt keine neuen Einzelheiten.</translation>
    </message>
    <message>
        <source>The pixels are coarser than the source: some detail is given up.</source>
        <translation>Die Pixel sind gröber als die Quelle: Einige Einzelheiten gehen verloren.</translation>
    </message>
    <message>
        <source>Only the plane of the rectangle is true; what stands off it reads long or short.</source>
        <translation>Nur die Ebene des Rechtecks stimmt; was vor oder hinter ihr steht, misst sich zu lang oder zu kurz.</translation>
    </message>
    <message>
        <source>rectify</source>
        <translation>entzerren</translation>
    </message>
    <message>
        <source>To what</source>
        <translation>Worauf</translation>
    </message>
    <message>
        <source>Resize to</source>
        <translation>Größe ändern auf</translation>
    </message>
    <message>
        <source>factor</source>
        <translation>Faktor</translation>
    </message>
    <message>
        <source>factor in y</source>
        <translation>Faktor in y</translation>
    </message>
    <message>
        <source>the same in x and y</source>
        <translation>gleich in x und y</translation>
    </message>
    <message>
        <source>the other side follows</source>
        <translation>die andere Seite folgt</translation>
    </message>
    <message>
        <source>What the pixel size needs</source>
        <translation>Was die Pixelgröße braucht</translation>
    </message>
    <message>
        <source>The wanted shape is another one:</source>
        <translation>Die gewünschte Form ist eine andere:</translation>
    </message>
    <message>
        <source>When the shape differs</source>
        <translation>Wenn die Form abweicht</translation>
    </message>
    <message>
        <source>stretch</source>
        <translation>strecken</translation>
    </message>
    <message>
        <source>pad</source>
        <translation>Rand anfügen</translation>
    </message>
    <message>
        <source>The pixel size of this picture is not known. Give it on the page of the source, by numbers or from lengths.</source>
        <translation>Die Pixelgröße dieses Bildes ist unbekannt. Geben Sie sie auf der Seite der Quelle an, als Zahl oder aus Längen.</translation>
    </message>
    <message>
        <source>%1 became %2: ×&#xa0;%3 across and ×&#xa0;%4 down, as whole pixels allow.</source>
        <translation>%1 wurde %2: ×&#xa0;%3 quer und ×&#xa0;%4 hoch, soweit ganze Pixel es erlauben.</translation>
    </message>
    <message>
        <source>The shape changed: lengths in x and y no longer compare in pixels%1.</source>
        <translation>Die Form hat sich geändert: Längen in x und y sind in Pixeln nicht mehr vergleichbar%1.</translation>
    </message>
    <message>
        <source>; in %1 they do</source>
        <translation>; in %1 sind sie es</translation>
    </message>
    <message>
        <source>What was missing of the shape is empty.</source>
        <translation>Was der Form fehlte, ist leer.</translation>
    </message>
    <message>
        <source>Enlarging adds no detail.</source>
        <translation>Vergrößern gibt keine neuen Einzelheiten.</translation>
    </message>
    <message>
        <source>%1 px wide was asked for; a picture has whole pixels.</source>
        <translation>%1 px Breite waren verlangt; ein Bild hat ganze Pixel.</translation>
    </message>
    <message>
        <source>How</source>
        <translation>Wie</translation>
    </message>
    <message>
        <source>BorderMode rule</source>
        <translation>Randregel</translation>
    </message>
    <message>
        <source>outside the source</source>
        <translation>außerhalb der Quelle</translation>
    </message>
    <message>
        <source>Value outside the source</source>
        <translation>Wert außerhalb der Quelle</translation>
    </message>
    <message>
        <source>One value, or one for each band, apart by commas</source>
        <translation>Ein Wert, oder einer für jeden Kanal, durch Kommas getrennt</translation>
    </message>
    <message>
        <source>filled with</source>
        <translation>gefüllt mit</translation>
    </message>
    <message>
        <source>Frames that did not match</source>
        <translation>Nicht zugeordnete Bilder</translation>
    </message>
    <message>
        <source>leave them out of the file</source>
        <translation>aus der Datei weglassen</translation>
    </message>
    <message>
        <source>File to write</source>
        <translation>Zu schreibende Datei</translation>
    </message>
    <message>
        <source>file to write</source>
        <translation>zu schreibende Datei</translation>
    </message>
    <message>
        <source>Choose the file to write</source>
        <translation>Die zu schreibende Datei wählen</translation>
    </message>
    <message>
        <source>Write out</source>
        <translation>Schreiben</translation>
    </message>
    <message>
        <source>Replace the existing file</source>
        <translation>Vorhandene Datei ersetzen</translation>
    </message>
    <message>
        <source>Apply the transforms to another stack…</source>
        <translation>Auf anderen Stapel anwenden …</translation>
    </message>
    <message>
        <source>Other bands or a copy of the same frames: each gets the transform of the frame with its number</source>
        <translation>Andere Kanäle oder eine Kopie derselben Bilder: Jedes bekommt die Transformation des Bildes mit seiner Nummer</translation>
    </message>
    <message>
        <source>The folder</source>
        <translation>Der Ordner</translation>
    </message>
    <message>
        <source>What came of writing</source>
        <translation>Was aus dem Schreiben wurde</translation>
    </message>
    <message>
        <source>What detail was lost</source>
        <translation>Verlorene Feinheiten</translation>
    </message>
    <message>
        <source>The same for many pictures</source>
        <translation>Dasselbe für viele Bilder</translation>
    </message>
    <message>
        <source>Command for many pictures</source>
        <translation>Befehl für viele Bilder</translation>
    </message>
    <message>
        <source>Copy the command</source>
        <translation>Befehl kopieren</translation>
    </message>
    <message>
        <source>“%1” is no number. Give one value, or one for each of %2 bands.</source>
        <translation>„%1“ ist keine Zahl. Geben Sie einen Wert an, oder einen für jeden der %2 Kanäle.</translation>
    </message>
    <message>
        <source>Give one value, or one for each of %1 bands.</source>
        <translation>Geben Sie einen Wert an, oder einen für jeden der %1 Kanäle.</translation>
    </message>
    <message>
        <source>fill</source>
        <translation>Füllwert</translation>
    </message>
    <message>
        <source>In the folder %1.</source>
        <translation>Im Ordner %1.</translation>
    </message>
    <message>
        <source>In the folder %1, which is made then.</source>
        <translation>Im Ordner %1, der dann angelegt wird.</translation>
    </message>
    <message>
        <source>Look at the name and the folder, then write: Ctrl+E, or the button.</source>
        <translation>Sehen Sie Name und Ordner an, und schreiben Sie dann: Strg+E, oder die Schaltfläche.</translation>
    </message>
    <message>
        <source>Cancelled; no file was left.</source>
        <translation>Abgebrochen; keine Datei blieb zurück.</translation>
    </message>
    <message>
        <source>One TIFF with a page for each frame; or a name with {index}, such as frame-{index}.png, for a file each</source>
        <translation>Ein TIFF mit einer Seite je Bild; oder ein Name mit {index}, etwa frame-{index}.png, für je eine Datei</translation>
    </message>
    <message>
        <source>Frame %1 did not match; it is written where it is, or left out.</source>
        <translation>Bild %1 wurde nicht zugeordnet; es wird geschrieben, wo es ist, oder weggelassen.</translation>
    </message>
    <message>
        <source>%1 frames did not match (%2); they are written where they are, or left out.</source>
        <translation>%1 Bilder wurden nicht zugeordnet (%2); sie werden geschrieben, wo sie sind, oder weggelassen.</translation>
    </message>
    <message>
        <source>Write %1 frames</source>
        <translation>%1 Bilder schreiben</translation>
    </message>
    <message>
        <source>Save the chain (Ctrl+S); then a command does the same to all pictures of a folder.</source>
        <translation>Speichern Sie die Kette (Strg+S); dann tut ein Befehl dasselbe mit allen Bildern eines Ordners.</translation>
    </message>
    <message>
        <source>
It runs the chain as it was saved last.</source>
        <translation>
Er führt die Kette aus, wie sie zuletzt gespeichert wurde.</translation>
    </message>
    <message>
        <source>A step cannot be made: %1 %2</source>
        <translation>Ein Schritt ist nicht ausführbar: %1 %2</translation>
    </message>
    <message>
        <source>Exact: pixels are moved bit for bit.</source>
        <translation>Exakt: Pixel werden Bit für Bit verschoben.</translation>
    </message>
    <message>
        <source>Resampled once, from the original pixels, %1.</source>
        <translation>Einmal interpoliert, aus den ursprünglichen Pixeln, %1.</translation>
    </message>
    <message>
        <source>Made of all pixels in between: %1.</source>
        <translation>Aus allen Pixeln dazwischen gemacht: %1.</translation>
    </message>
    <message>
        <source>Pixels are not square: lengths in x and y are measured apart.</source>
        <translation>Pixel sind nicht quadratisch: Längen in x und y werden getrennt gemessen.</translation>
    </message>
    <message>
        <source>TIFF, PNG and JPEG carry the pixel size.</source>
        <translation>TIFF, PNG und JPEG tragen die Pixelgröße.</translation>
    </message>
    <message>
        <source>The pixel size is not known, so the file will not carry one.</source>
        <translation>Die Pixelgröße ist unbekannt, die Datei wird keine tragen.</translation>
    </message>
    <message>
        <source>Rotation</source>
        <translation>Drehung</translation>
    </message>
    <message>
        <source>angle</source>
        <translation>Winkel</translation>
    </message>
    <message>
        <source>−90°</source>
        <translation>−90°</translation>
    </message>
    <message>
        <source>180°</source>
        <translation>180°</translation>
    </message>
    <message>
        <source>+90°</source>
        <translation>+90°</translation>
    </message>
    <message>
        <source>Rotate by %1 degrees</source>
        <translation>Um %1 Grad drehen</translation>
    </message>
    <message>
        <source>A quarter turn clockwise</source>
        <translation>Eine Vierteldrehung im Uhrzeigersinn</translation>
    </message>
    <message>
        <source>A half turn</source>
        <translation>Eine halbe Drehung</translation>
    </message>
    <message>
        <source>A quarter turn counter-clockwise</source>
        <translation>Eine Vierteldrehung gegen den Uhrzeigersinn</translation>
    </message>
    <message>
        <source>Level along a line…</source>
        <translation>Nach einer Linie …</translation>
    </message>
    <message>
        <source>Drag along what should be level or plumb. Escape leaves it.</source>
        <translation>Entlang dessen ziehen, was waagrecht oder lotrecht sein soll. Esc verlässt.</translation>
    </message>
    <message>
        <source>Draw a line on the picture; the rotation makes it level or plumb, whichever is nearer</source>
        <translation>Eine Linie auf das Bild ziehen; die Drehung macht sie waagrecht oder lotrecht, was näher liegt</translation>
    </message>
    <message>
        <source>Make it exactly %1°</source>
        <translation>Genau %1° daraus machen</translation>
    </message>
    <message>
        <source>Not rotated: type an angle, press a button, drag the handle on the picture, or level along a line.</source>
        <translation>Nicht gedreht: Tippen Sie einen Winkel, drücken Sie eine Schaltfläche, ziehen Sie den Griff auf dem Bild, oder richten Sie nach einer Linie aus.</translation>
    </message>
    <message>
        <source>Rotated by %1° clockwise.</source>
        <translation>Um %1° im Uhrzeigersinn gedreht.</translation>
    </message>
    <message>
        <source>Rotated by %1° counter-clockwise.</source>
        <translation>Um %1° gegen den Uhrzeigersinn gedreht.</translation>
    </message>
    <message>
        <source>A half turn, not a mirror image.</source>
        <translation>Eine halbe Drehung, kein Spiegelbild.</translation>
    </message>
    <message>
        <source>The picture grew by %1 × %2 px; its corners are empty.</source>
        <translation>Das Bild wuchs um %1 × %2 px; seine Ecken sind leer.</translation>
    </message>
    <message>
        <source>The size stayed: corners of the picture are cut off, and corners of the output are empty.</source>
        <translation>Die Größe blieb: Ecken des Bildes sind abgeschnitten, und Ecken der Ausgabe sind leer.</translation>
    </message>
    <message>
        <source>%1 are left, as large as can be without empty corners.</source>
        <translation>%1 sind übrig, so groß es ohne leere Ecken geht.</translation>
    </message>
    <message>
        <source>Look at the middle of the view</source>
        <translation>Die Mitte der Ansicht ansehen</translation>
    </message>
    <message>
        <source>Show what detail was lost in the middle of the view</source>
        <translation>Zeigen, welche Einzelheiten in der Mitte der Ansicht verloren gingen</translation>
    </message>
    <message>
        <source>there and back</source>
        <translation>hin und zurück</translation>
    </message>
    <message>
        <source>difference ×%1</source>
        <translation>Differenz ×%1</translation>
    </message>
    <message>
        <source>Here the source, or the result, ends. Look somewhere else.</source>
        <translation>Hier endet die Quelle oder das Ergebnis. Sehen Sie anderswo nach.</translation>
    </message>
    <message>
        <source>Nothing is lost here: taken to the result and back, every sample is the same.</source>
        <translation>Hier geht nichts verloren: Zum Ergebnis und zurück gebracht ist jeder Wert derselbe.</translation>
    </message>
    <message>
        <source> of %1</source>
        <translation> von %1</translation>
    </message>
    <message>
        <source>Taken to the result and back, %1 % of the contrast here is left (RMS difference %2%3). The result itself has lost about half of that.</source>
        <translation>Zum Ergebnis und zurück gebracht, bleiben %1 % des Kontrasts hier (RMS-Differenz %2%3). Das Ergebnis selbst hat etwa die Hälfte davon verloren.</translation>
    </message>
    <message>
        <source>%1
own correction</source>
        <translation>%1
eigene Korrektur</translation>
    </message>
    <message>
        <source>, %1 pages</source>
        <translation>, %1 Seiten</translation>
    </message>
    <message>
        <source>no pixel size</source>
        <translation>keine Pixelgröße</translation>
    </message>
    <message>
        <source>picture</source>
        <translation>Bild</translation>
    </message>
    <message>
        <source>has</source>
        <translation>hat</translation>
    </message>
    <message>
        <source>becomes</source>
        <translation>wird</translation>
    </message>
    <message>
        <source>state</source>
        <translation>Stand</translation>
    </message>
    <message>
        <source>result, or what is wrong</source>
        <translation>Ergebnis oder Fehler</translation>
    </message>
    <message>
        <source>reading thumbnails</source>
        <translation>Vorschaubilder werden gelesen</translation>
    </message>
    <message>
        <source>Run over many pictures</source>
        <translation>Über viele Bilder</translation>
    </message>
    <message>
        <source>The chain that runs</source>
        <translation>Die Kette, die läuft</translation>
    </message>
    <message>
        <source>go on with an earlier run…</source>
        <translation>früherer Lauf …</translation>
    </message>
    <message>
        <source>back to the picture</source>
        <translation>zurück zum Bild</translation>
    </message>
    <message>
        <source>The journal of a run</source>
        <translation>Das Journal eines Laufs</translation>
    </message>
    <message>
        <source>Journals (*.run.jsonl)</source>
        <translation>Journale (*.run.jsonl)</translation>
    </message>
    <message>
        <source>Pictures that are listed</source>
        <translation>Welche Bilder gelistet sind</translation>
    </message>
    <message>
        <source>to look at</source>
        <translation>anzusehen</translation>
    </message>
    <message>
        <source>How many pictures</source>
        <translation>Wie viele Bilder</translation>
    </message>
    <message>
        <source>Pictures of the run</source>
        <translation>Bilder des Laufs</translation>
    </message>
    <message>
        <source>About the run</source>
        <translation>Über den Lauf</translation>
    </message>
    <message>
        <source>Run</source>
        <translation>Starten</translation>
    </message>
    <message>
        <source>Pause</source>
        <translation>Anhalten</translation>
    </message>
    <message>
        <source>Cancel the run</source>
        <translation>Lauf abbrechen</translation>
    </message>
    <message>
        <source>Progress of the run</source>
        <translation>Fortschritt des Laufs</translation>
    </message>
    <message>
        <source>How far the run is</source>
        <translation>Wie weit der Lauf ist</translation>
    </message>
    <message>
        <source>Correct this picture…</source>
        <translation>Dieses Bild berichtigen …</translation>
    </message>
    <message>
        <source>Opens it with the chain as it runs on it; what you change holds for this picture alone</source>
        <translation>Öffnet es mit der Kette, wie sie dafür läuft; was Sie ändern, gilt nur für dieses Bild</translation>
    </message>
    <message>
        <source>One by one…</source>
        <translation>Eines nach dem anderen …</translation>
    </message>
    <message>
        <source>Shows one picture after the other with the step&apos;s handles; Return accepts and goes on</source>
        <translation>Zeigt ein Bild nach dem anderen mit den Griffen des Schritts; Eingabe nimmt an und geht weiter</translation>
    </message>
    <message>
        <source>Where the pictures are</source>
        <translation>Wo die Bilder sind</translation>
    </message>
    <message>
        <source>Add files…</source>
        <translation>Dateien …</translation>
    </message>
    <message>
        <source>Add folder…</source>
        <translation>Ordner …</translation>
    </message>
    <message>
        <source>Clear</source>
        <translation>Leeren</translation>
    </message>
    <message>
        <source>A folder of pictures</source>
        <translation>Ein Ordner mit Bildern</translation>
    </message>
    <message>
        <source>Names of files in folders</source>
        <translation>Namen von Dateien in Ordnern</translation>
    </message>
    <message>
        <source>all, or such as IMG_*.tif</source>
        <translation>alle, oder etwa IMG_*.tif</translation>
    </message>
    <message>
        <source>names</source>
        <translation>Namen</translation>
    </message>
    <message>
        <source>folders below them, too</source>
        <translation>auch Ordner darunter</translation>
    </message>
    <message>
        <source>Folder of the results</source>
        <translation>Ordner der Ergebnisse</translation>
    </message>
    <message>
        <source>Choose the folder of the results</source>
        <translation>Den Ordner der Ergebnisse wählen</translation>
    </message>
    <message>
        <source>Where results go</source>
        <translation>Wohin Ergebnisse gehen</translation>
    </message>
    <message>
        <source>Name of each result</source>
        <translation>Name jedes Ergebnisses</translation>
    </message>
    <message>
        <source>{stem} is the picture&apos;s own name, {chain} the chain&apos;s, {index} its number in the list, {ext} the ending</source>
        <translation>{stem} ist der Name des Bildes, {chain} der der Kette, {index} seine Nummer in der Liste, {ext} die Endung</translation>
    </message>
    <message>
        <source>Results that are there</source>
        <translation>Ergebnisse, die da sind</translation>
    </message>
    <message>
        <source>are kept</source>
        <translation>bleiben</translation>
    </message>
    <message>
        <source>are kept if they stand</source>
        <translation>bleiben, wenn sie stimmen</translation>
    </message>
    <message>
        <source>are replaced</source>
        <translation>werden ersetzt</translation>
    </message>
    <message>
        <source>Those that stand were made by this chain of this picture, as their checksums say; others are made again</source>
        <translation>Die stimmen, wurden nach ihren Prüfsummen von dieser Kette aus diesem Bild gemacht; andere werden neu gemacht</translation>
    </message>
    <message>
        <source>folder</source>
        <translation>Ordner</translation>
    </message>
    <message>
        <source>An example of the names</source>
        <translation>Ein Beispiel der Namen</translation>
    </message>
    <message>
        <source>results that are there</source>
        <translation>Ergebnisse, die da sind</translation>
    </message>
    <message>
        <source>Format</source>
        <translation>Format</translation>
    </message>
    <message>
        <source>as the picture</source>
        <translation>wie das Bild</translation>
    </message>
    <message>
        <source>Depth</source>
        <translation>Tiefe</translation>
    </message>
    <message>
        <source>8 bits</source>
        <translation>8 Bit</translation>
    </message>
    <message>
        <source>16 bits</source>
        <translation>16 Bit</translation>
    </message>
    <message>
        <source>floating point</source>
        <translation>Gleitkomma</translation>
    </message>
    <message>
        <source>Empty pixels</source>
        <translation>Leere Pixel</translation>
    </message>
    <message>
        <source>the chain&apos;s fill</source>
        <translation>der Füllwert der Kette</translation>
    </message>
    <message>
        <source>an alpha band</source>
        <translation>ein Alphakanal</translation>
    </message>
    <message>
        <source>NaN</source>
        <translation>NaN</translation>
    </message>
    <message>
        <source>a mask beside the result</source>
        <translation>eine Maske neben dem Ergebnis</translation>
    </message>
    <message>
        <source>Quality of JPEG</source>
        <translation>Qualität von JPEG</translation>
    </message>
    <message>
        <source>compress TIFF</source>
        <translation>TIFF komprimieren</translation>
    </message>
    <message>
        <source>Calibration of the run</source>
        <translation>Kalibrierung des Laufs</translation>
    </message>
    <message>
        <source>Table of values</source>
        <translation>Tabelle mit Werten</translation>
    </message>
    <message>
        <source>a CSV with a row a file</source>
        <translation>eine CSV mit einer Zeile je Datei</translation>
    </message>
    <message>
        <source>file,/steps/0/degrees,… : values that differ from file to file, by their paths in the chain</source>
        <translation>file,/steps/0/degrees,… : Werte, die von Datei zu Datei verschieden sind, nach ihren Pfaden in der Kette</translation>
    </message>
    <message>
        <source>…</source>
        <translation>…</translation>
    </message>
    <message>
        <source>Choose the table of values</source>
        <translation>Die Tabelle mit Werten wählen</translation>
    </message>
    <message>
        <source>Values of single files</source>
        <translation>Werte einzelner Dateien</translation>
    </message>
    <message>
        <source>Tables (*.csv);;All files (*)</source>
        <translation>Tabellen (*.csv);;Alle Dateien (*)</translation>
    </message>
    <message>
        <source>quality</source>
        <translation>Qualität</translation>
    </message>
    <message>
        <source>empty pixels</source>
        <translation>leere Pixel</translation>
    </message>
    <message>
        <source>calibration</source>
        <translation>Kalibrierung</translation>
    </message>
    <message>
        <source>the chain&apos;s</source>
        <translation>die der Kette</translation>
    </message>
    <message>
        <source>%1 becomes %2.</source>
        <translation>%1 wird %2.</translation>
    </message>
    <message>
        <source>Add pictures, and an example stands here.</source>
        <translation>Fügen Sie Bilder hinzu, dann steht hier ein Beispiel.</translation>
    </message>
    <message>
        <source>with the chain %1, 1 step</source>
        <translation>mit der Kette %1, 1 Schritt</translation>
    </message>
    <message>
        <source>with the chain %1, %2 steps</source>
        <translation>mit der Kette %1, %2 Schritte</translation>
    </message>
    <message>
        <source>%1 pictures of an earlier run</source>
        <translation>%1 Bilder eines früheren Laufs</translation>
    </message>
    <message>
        <source>and %1 more</source>
        <translation>und %1 weitere</translation>
    </message>
    <message>
        <source>None yet. Drop files or folders on this page.</source>
        <translation>Noch keine. Legen Sie Dateien oder Ordner auf dieser Seite ab.</translation>
    </message>
    <message>
        <source>1 picture</source>
        <translation>1 Bild</translation>
    </message>
    <message>
        <source>%1 pictures</source>
        <translation>%1 Bilder</translation>
    </message>
    <message>
        <source>%1 done</source>
        <translation>%1 fertig</translation>
    </message>
    <message>
        <source>%1 cannot be made</source>
        <translation>%1 nicht ausführbar</translation>
    </message>
    <message>
        <source>%1 failed</source>
        <translation>%1 fehlgeschlagen</translation>
    </message>
    <message>
        <source>%1 to look at</source>
        <translation>%1 anzusehen</translation>
    </message>
    <message>
        <source>Run 1 picture</source>
        <translation>1 Bild starten</translation>
    </message>
    <message>
        <source>Run %1 pictures</source>
        <translation>%1 Bilder starten</translation>
    </message>
    <message>
        <source>Go on</source>
        <translation>Fortsetzen</translation>
    </message>
    <message>
        <source>held; what is at work is finished</source>
        <translation>angehalten; was in Arbeit ist, wird fertig</translation>
    </message>
    <message>
        <source>about %1 left</source>
        <translation>noch etwa %1</translation>
    </message>
    <message>
        <source>Corners from edges, near those of the picture before.</source>
        <translation>Ecken aus Kanten, nahe denen des vorigen Bildes.</translation>
    </message>
    <message>
        <source>Corners from edges, near the chain&apos;s.</source>
        <translation>Ecken aus Kanten, nahe denen der Kette.</translation>
    </message>
    <message>
        <source>No rectangle was found: drag the corners onto one.</source>
        <translation>Kein Rechteck gefunden: Ziehen Sie die Ecken auf eines.</translation>
    </message>
    <message>
        <source>Proposed, with corners from edges.</source>
        <translation>Vorgeschlagen, mit Ecken aus Kanten.</translation>
    </message>
    <message>
        <source>Proposed. Look at the corners: no edges were found there.</source>
        <translation>Vorgeschlagen. Sehen Sie die Ecken an: Dort wurden keine Kanten gefunden.</translation>
    </message>
    <message>
        <source>The picture that is corrected</source>
        <translation>Das Bild, das berichtigt wird</translation>
    </message>
    <message>
        <source>About this picture</source>
        <translation>Über dieses Bild</translation>
    </message>
    <message>
        <source>Before</source>
        <translation>Zurück</translation>
    </message>
    <message>
        <source>The picture before, Ctrl+PageUp</source>
        <translation>Das vorige Bild, Strg+Bild auf</translation>
    </message>
    <message>
        <source>Skip</source>
        <translation>Überspringen</translation>
    </message>
    <message>
        <source>The next picture; this one stays as it is, Ctrl+PageDown</source>
        <translation>Das nächste Bild; dieses bleibt, wie es ist, Strg+Bild ab</translation>
    </message>
    <message>
        <source>Accept and go on</source>
        <translation>Annehmen und weiter</translation>
    </message>
    <message>
        <source>What you see holds for this picture, which is made again: Return</source>
        <translation>Was Sie sehen, gilt für dieses Bild, das neu gemacht wird: Eingabe</translation>
    </message>
    <message>
        <source>Back to the run</source>
        <translation>Zurück zum Lauf</translation>
    </message>
    <message>
        <source>Leaves the rest as it is</source>
        <translation>Lässt den Rest, wie er ist</translation>
    </message>
    <message>
        <source>%1 of %2 · %3</source>
        <translation>%1 von %2 · %3</translation>
    </message>
    <message>
        <source>opening…</source>
        <translation>wird geöffnet …</translation>
    </message>
    <message>
        <source>opening</source>
        <translation>wird geöffnet</translation>
    </message>
    <message>
        <source>reading ahead</source>
        <translation>wird voraus gelesen</translation>
    </message>
    <message>
        <source>Another picture was opened here. Go to the one before or after, and back.</source>
        <translation>Hier wurde ein anderes Bild geöffnet. Gehen Sie zum vorigen oder nächsten und zurück.</translation>
    </message>
    <message>
        <source>The chain cannot be made like this: %1</source>
        <translation>So ist die Kette nicht ausführbar: %1</translation>
    </message>
    <message>
        <source>looking at the pictures</source>
        <translation>Bilder werden angesehen</translation>
    </message>
    <message>
        <source>running</source>
        <translation>läuft</translation>
    </message>
    <message>
        <source>Chart of the selected measurement at B</source>
        <translation>Diagramm der gewählten Messung bei B</translation>
    </message>
    <message>
        <source>What the selected measurement says at B</source>
        <translation>Was die gewählte Messung bei B sagt</translation>
    </message>
    <message>
        <source>Reading its samples…</source>
        <translation>Ihre Werte werden gelesen …</translation>
    </message>
    <message>
        <source>There are no samples here: it lies outside of what the picture shows.</source>
        <translation>Hier sind keine Werte: Sie liegt außerhalb dessen, was das Bild zeigt.</translation>
    </message>
    <message>
        <source>along the profile, %1</source>
        <translation>entlang des Profils, %1</translation>
    </message>
    <message>
        <source>No edge stands out</source>
        <translation>Keine Kante hebt sich ab</translation>
    </message>
    <message>
        <source>1 edge</source>
        <translation>1 Kante</translation>
    </message>
    <message>
        <source>%1 edges</source>
        <translation>%1 Kanten</translation>
    </message>
    <message>
        <source>; between the two strongest %1 ± %2 %3</source>
        <translation>; zwischen den zwei stärksten %1 ± %2 %3</translation>
    </message>
    <message>
        <source>; the sharpest is %1 %2 wide (10 to 90 %)</source>
        <translation>; die schärfste ist %1 %2 breit (10 bis 90 %)</translation>
    </message>
    <message>
        <source>pixels by sample</source>
        <translation>Pixel je Wert</translation>
    </message>
    <message>
        <source>%1 pixels: mean %2, median %3, standard deviation %4, %5 to %6.</source>
        <translation>%1 Pixel: Mittel %2, Median %3, Standardabweichung %4, %5 bis %6.</translation>
    </message>
    <message>
        <source> %1 % of the area has samples.</source>
        <translation> %1 % der Fläche haben Werte.</translation>
    </message>
    <message>
        <source>It has no uncertainty here.</source>
        <translation>Hier hat sie keine Unsicherheit.</translation>
    </message>
    <message>
        <source>share of the variance, %</source>
        <translation>Anteil an der Varianz, %</translation>
    </message>
    <message>
        <source>%1 % %2</source>
        <translation>%1 % %2</translation>
    </message>
    <message>
        <source>Its uncertainty comes from: %1.</source>
        <translation>Ihre Unsicherheit kommt von: %1.</translation>
    </message>
    <message>
        <source>As it was read</source>
        <translation>Wie gelesen</translation>
    </message>
    <message>
        <source>What the file says</source>
        <translation>Was die Datei sagt</translation>
    </message>
    <message>
        <source>Use alpha as a band</source>
        <translation>Alpha als Kanal verwenden</translation>
    </message>
    <message>
        <source>Its numbers become the last band; without it, alpha says which pixels are empty</source>
        <translation>Seine Zahlen werden der letzte Kanal; ohne das sagt Alpha, welche Pixel leer sind</translation>
    </message>
    <message>
        <source>Time between frames</source>
        <translation>Zeit zwischen Bildern</translation>
    </message>
    <message>
        <source>Unit of time</source>
        <translation>Einheit der Zeit</translation>
    </message>
    <message>
        <source>between frames</source>
        <translation>zwischen Bildern</translation>
    </message>
    <message>
        <source>Pairs of frames</source>
        <translation>Bildpaare</translation>
    </message>
    <message>
        <source>as their names say (a, b)</source>
        <translation>wie die Namen sagen (a, b)</translation>
    </message>
    <message>
        <source>by order: 1 and 2, 3 and 4</source>
        <translation>der Reihe nach: 1 und 2, 3 und 4</translation>
    </message>
    <message>
        <source>pairs</source>
        <translation>Paare</translation>
    </message>
    <message>
        <source>pairs of frames</source>
        <translation>Bildpaare</translation>
    </message>
    <message>
        <source>No picture is open. Open one with Ctrl+O, or drop it on the window.</source>
        <translation>Kein Bild ist offen. Öffnen Sie eines mit Strg+O, oder legen Sie es auf dem Fenster ab.</translation>
    </message>
    <message>
        <source>three bands</source>
        <translation>drei Kanäle</translation>
    </message>
    <message>
        <source>%1
%2 × %3 px, %4, %5</source>
        <translation>%1
%2 × %3 px, %4, %5</translation>
    </message>
    <message>
        <source>The file does not say how large a pixel is, so lengths here are in pixels.</source>
        <translation>Die Datei sagt nicht, wie groß ein Pixel ist, Längen hier sind also in Pixeln.</translation>
    </message>
    <message>
        <source>The file carries orientation tag %1; it was applied once, so the picture stands upright here.</source>
        <translation>Die Datei trägt die Ausrichtung %1; sie wurde einmal angewandt, das Bild steht hier aufrecht.</translation>
    </message>
    <message>
        <source>An alpha band says which pixels are empty; what lies under it is not used.</source>
        <translation>Ein Alphakanal sagt, welche Pixel leer sind; was darunter liegt, wird nicht verwendet.</translation>
    </message>
    <message>
        <source>Pixels that hold no number (NaN) are empty.</source>
        <translation>Pixel, die keine Zahl enthalten (NaN), sind leer.</translation>
    </message>
    <message>
        <source>%1 of its pixels are partly transparent: those of at least half are taken as whole, the others as empty.</source>
        <translation>%1 seiner Pixel sind teilweise durchsichtig: Die mindestens halben gelten als ganz, die anderen als leer.</translation>
    </message>
    <message>
        <source>Its colours are stored as %1; they are read as sRGB.</source>
        <translation>Seine Farben sind als %1 gespeichert; sie werden als sRGB gelesen.</translation>
    </message>
    <message>
        <source>It carries a colour profile, which goes on to the result.</source>
        <translation>Es trägt ein Farbprofil, das zum Ergebnis mitgeht.</translation>
    </message>
    <message>
        <source>The file has %1 pages.</source>
        <translation>Die Datei hat %1 Seiten.</translation>
    </message>
    <message>
        <source>Black and white are the least and the largest value of the data (Range, above the pictures).</source>
        <translation>Schwarz und Weiß sind der kleinste und der größte Wert der Daten (Bereich, über den Bildern).</translation>
    </message>
    <message>
        <source>The file is only ever read.</source>
        <translation>Die Datei wird nur gelesen.</translation>
    </message>
    <message>
        <source>Pixel width</source>
        <translation>Pixelbreite</translation>
    </message>
    <message>
        <source>Pixel height</source>
        <translation>Pixelhöhe</translation>
    </message>
    <message>
        <source>Unit of the pixel size</source>
        <translation>Einheit der Pixelgröße</translation>
    </message>
    <message>
        <source>Where the pixel size is from</source>
        <translation>Woher die Pixelgröße kommt</translation>
    </message>
    <message>
        <source>From the lengths</source>
        <translation>Aus den Längen</translation>
    </message>
    <message>
        <source>As the file says</source>
        <translation>Wie die Datei sagt</translation>
    </message>
    <message>
        <source>Use the density as scale</source>
        <translation>Die Dichte als Maßstab verwenden</translation>
    </message>
    <message>
        <source>the file&apos;s density</source>
        <translation>die Dichte der Datei</translation>
    </message>
    <message>
        <source>density as scale</source>
        <translation>Dichte als Maßstab</translation>
    </message>
    <message>
        <source>from a length</source>
        <translation>aus einer Länge</translation>
    </message>
    <message>
        <source>from %1 lengths</source>
        <translation>aus %1 Längen</translation>
    </message>
    <message>
        <source>pixel size from lengths</source>
        <translation>Pixelgröße aus Längen</translation>
    </message>
    <message>
        <source>pixel size as read</source>
        <translation>Pixelgröße wie gelesen</translation>
    </message>
    <message>
        <source>%1 dpi: use as scale</source>
        <translation>%1 dpi: als Maßstab verwenden</translation>
    </message>
    <message>
        <source>The file says how it is to be printed. Take it as a scale only where a scanner wrote it.</source>
        <translation>Die Datei sagt, wie sie gedruckt werden soll. Nehmen Sie es nur als Maßstab, wenn ein Scanner sie schrieb.</translation>
    </message>
    <message>
        <source>Forget</source>
        <translation>Vergessen</translation>
    </message>
    <message>
        <source>Set here.</source>
        <translation>Hier gesetzt.</translation>
    </message>
    <message>
        <source>Set here, %1.</source>
        <translation>Hier gesetzt, %1.</translation>
    </message>
    <message>
        <source>Standard uncertainty %1.</source>
        <translation>Standardunsicherheit %1.</translation>
    </message>
    <message>
        <source>The file says %1.</source>
        <translation>Die Datei sagt %1.</translation>
    </message>
    <message>
        <source>The file says so.</source>
        <translation>Die Datei sagt es.</translation>
    </message>
    <message>
        <source>Type it; or press G, drag along a known length, type what it should be into the table, and take the size from there.</source>
        <translation>Tippen Sie sie ein; oder drücken Sie G, ziehen Sie entlang einer bekannten Länge, tippen Sie in die Tabelle, was sie sein soll, und nehmen Sie die Größe daraus.</translation>
    </message>
    <message>
        <source>The picture is %1.</source>
        <translation>Das Bild ist %1.</translation>
    </message>
    <message>
        <source>The lengths say %1, with a standard uncertainty of %2.</source>
        <translation>Die Längen sagen %1, mit einer Standardunsicherheit von %2.</translation>
    </message>
    <message>
        <source>Lengths are up to %1 off it: the picture is not seen straight on, or one of them is off. Rectify it, or take that one away.</source>
        <translation>Längen weichen bis zu %1 davon ab: Das Bild ist nicht gerade von vorn gesehen, oder eine von ihnen ist falsch. Entzerren Sie es, oder nehmen Sie diese weg.</translation>
    </message>
    <message>
        <source>as the file says</source>
        <translation>wie die Datei sagt</translation>
    </message>
    <message>
        <source>unit of the pixel size</source>
        <translation>Einheit der Pixelgröße</translation>
    </message>
    <message>
        <source>time between frames</source>
        <translation>Zeit zwischen Bildern</translation>
    </message>
    <message>
        <source>Steps to add</source>
        <translation>Schritte zum Hinzufügen</translation>
    </message>
    <message>
        <source>Find a step</source>
        <translation>Einen Schritt suchen</translation>
    </message>
    <message>
        <source>Steps</source>
        <translation>Schritte</translation>
    </message>
    <message>
        <source>No step answers to “%1”. Try another word for it, or clear the field to see them all.</source>
        <translation>Kein Schritt antwortet auf „%1“. Versuchen Sie ein anderes Wort, oder leeren Sie das Feld, um alle zu sehen.</translation>
    </message>
    <message>
        <source>nothing open</source>
        <translation>nichts offen</translation>
    </message>
    <message>
        <source>a step cannot be made</source>
        <translation>ein Schritt ist nicht ausführbar</translation>
    </message>
    <message>
        <source>beyond the horizon</source>
        <translation>hinter dem Horizont</translation>
    </message>
    <message>
        <source>no place here</source>
        <translation>hier keine Stelle</translation>
    </message>
    <message>
        <source> · empty</source>
        <translation> · leer</translation>
    </message>
    <message>
        <source>movement</source>
        <translation>Bewegung</translation>
    </message>
    <message>
        <source>Name of the step</source>
        <translation>Name des Schritts</translation>
    </message>
    <message>
        <source>tilt</source>
        <translation>kippen</translation>
    </message>
    <message>
        <source>about x</source>
        <translation>um x</translation>
    </message>
    <message>
        <source>Positive brings the top nearer to the viewer</source>
        <translation>Positiv bringt oben näher zum Betrachter</translation>
    </message>
    <message>
        <source>about y</source>
        <translation>um y</translation>
    </message>
    <message>
        <source>Positive takes the right side away from the viewer</source>
        <translation>Positiv nimmt die rechte Seite vom Betrachter weg</translation>
    </message>
    <message>
        <source>about z</source>
        <translation>um z</translation>
    </message>
    <message>
        <source>A turn in the picture&apos;s plane, positive counter-clockwise</source>
        <translation>Eine Drehung in der Bildebene, gegen den Uhrzeigersinn positiv</translation>
    </message>
    <message>
        <source>Rotation matrix</source>
        <translation>Drehmatrix</translation>
    </message>
    <message>
        <source>Seen</source>
        <translation>Gesehen</translation>
    </message>
    <message>
        <source>View</source>
        <translation>Ansicht</translation>
    </message>
    <message>
        <source>parallel</source>
        <translation>parallel</translation>
    </message>
    <message>
        <source>from</source>
        <translation>aus</translation>
    </message>
    <message>
        <source>widths away</source>
        <translation>Breiten Abstand</translation>
    </message>
    <message>
        <source>Not tilted: type angles, drag in the drawing, or drag the handle on the picture.</source>
        <translation>Nicht gekippt: Tippen Sie Winkel, ziehen Sie in der Zeichnung, oder ziehen Sie den Griff auf dem Bild.</translation>
    </message>
    <message>
        <source>The plane leans %1° from the viewer&apos;s.</source>
        <translation>Die Ebene neigt sich um %1° aus der des Betrachters.</translation>
    </message>
    <message>
        <source>Scale varies %1 % over the picture.</source>
        <translation>Der Maßstab schwankt um %1 % über das Bild.</translation>
    </message>
    <message>
        <source>One pixel size no longer holds for all of it.</source>
        <translation>Eine Pixelgröße gilt nicht mehr für alles.</translation>
    </message>
    <message>
        <source>Move by</source>
        <translation>Verschieben um</translation>
    </message>
    <message>
        <source>Nothing moves yet: type a distance, or drag the handle on the picture.</source>
        <translation>Noch bewegt sich nichts: Tippen Sie einen Abstand, oder ziehen Sie den Griff auf dem Bild.</translation>
    </message>
    <message>
        <source>The picture moved %1 px %2 and %3 px %4. %5</source>
        <translation>Das Bild bewegte sich um %1 px nach %2 und %3 px nach %4. %5</translation>
    </message>
    <message>
        <source>Fractions of a pixel: %1</source>
        <translation>Bruchteile eines Pixels: %1</translation>
    </message>
    <message>
        <source>The ring</source>
        <translation>Der Ring</translation>
    </message>
    <message>
        <source>Centre from the edge</source>
        <translation>Mitte aus dem Rand</translation>
    </message>
    <message>
        <source>Look for the round edge nearest to the outer circle, and take its centre</source>
        <translation>Den runden Rand suchen, der dem äußeren Kreis am nächsten ist, und seine Mitte nehmen</translation>
    </message>
    <message>
        <source>Centre from points on the edge…</source>
        <translation>Mitte aus Punkten am Rand …</translation>
    </message>
    <message>
        <source>Click points around the edge, three or more; Return ends, Backspace takes one back</source>
        <translation>Punkte am Rand anklicken, drei oder mehr; Eingabe beendet, Rücktaste nimmt einen zurück</translation>
    </message>
    <message>
        <source>A circle through points that you click; the outer circle is laid on it</source>
        <translation>Ein Kreis durch angeklickte Punkte; der äußere Kreis wird daraufgelegt</translation>
    </message>
    <message>
        <source>What the edge says</source>
        <translation>Was der Rand sagt</translation>
    </message>
    <message>
        <source>The strip</source>
        <translation>Der Streifen</translation>
    </message>
    <message>
        <source>Columns run</source>
        <translation>Spalten laufen</translation>
    </message>
    <message>
        <source>clockwise</source>
        <translation>rechtsherum</translation>
    </message>
    <message>
        <source>counter-clockwise</source>
        <translation>linksherum</translation>
    </message>
    <message>
        <source>start</source>
        <translation>Anfang</translation>
    </message>
    <message>
        <source>Where the strip begins: 0 is to the right, counter-clockwise from there</source>
        <translation>Wo der Streifen beginnt: 0 ist rechts, von dort gegen den Uhrzeigersinn</translation>
    </message>
    <message>
        <source>sweep</source>
        <translation>Bogen</translation>
    </message>
    <message>
        <source>true at radius</source>
        <translation>stimmt bei Radius</translation>
    </message>
    <message>
        <source>The radius at which a length along the strip is a length along the ring</source>
        <translation>Der Radius, bei dem eine Länge entlang des Streifens eine Länge entlang des Rings ist</translation>
    </message>
    <message>
        <source>One pixel to a pixel</source>
        <translation>Ein Pixel zu einem Pixel</translation>
    </message>
    <message>
        <source>Looking for the edge of the ring</source>
        <translation>Der Rand des Rings wird gesucht</translation>
    </message>
    <message>
        <source>No round edge stands out within %1 px of the outer circle%2. Move its handles closer, or click points on it.</source>
        <translation>Kein runder Rand hebt sich innerhalb von %1 px des äußeren Kreises ab%2. Ziehen Sie seine Griffe näher, oder klicken Sie Punkte darauf an.</translation>
    </message>
    <message>
        <source>centre from the edge</source>
        <translation>Mitte aus dem Rand</translation>
    </message>
    <message>
        <source>These points lie on a line, or too close to one; click some farther around the edge.</source>
        <translation>Diese Punkte liegen auf einer Linie, oder zu nahe an einer; klicken Sie einige weiter um den Rand an.</translation>
    </message>
    <message>
        <source>centre from points</source>
        <translation>Mitte aus Punkten</translation>
    </message>
    <message>
        <source>The edge of the ring is a circle of %1 px about %2, %3 ± %4 px; %5 of %6 arcs agree within %7 px.</source>
        <translation>Der Rand des Rings ist ein Kreis von %1 px um %2, %3 ± %4 px; %5 von %6 Bögen stimmen auf %7 px überein.</translation>
    </message>
    <message>
        <source> The centre here is %1 px off it: along the strip the edge swings by ± %1 px, once a turn.</source>
        <translation> Die Mitte hier liegt %1 px daneben: Entlang des Streifens schwankt der Rand um ± %1 px, einmal je Umdrehung.</translation>
    </message>
    <message>
        <source> The centre was %1 px off: the edge would have swung by as much, once a turn.</source>
        <translation> Die Mitte lag %1 px daneben: Der Rand hätte um so viel geschwankt, einmal je Umdrehung.</translation>
    </message>
    <message>
        <source>%1° of the ring became a strip of %2.</source>
        <translation>%1° des Rings wurden ein Streifen von %2.</translation>
    </message>
    <message>
        <source>Lengths along it are true at radius %1 px; at the outer circle they read %2 % short, at the inner one %3 % long.</source>
        <translation>Längen entlang von ihm stimmen bei Radius %1 px; am äußeren Kreis messen sie sich %2 % zu kurz, am inneren %3 % zu lang.</translation>
    </message>
    <message>
        <source>without limit</source>
        <translation>ohne Grenze</translation>
    </message>
    <message>
        <source>The seam is at %1°.</source>
        <translation>Die Naht ist bei %1°.</translation>
    </message>
    <message>
        <source>Ways to align, compared</source>
        <translation>Weisen auszurichten, verglichen</translation>
    </message>
    <message>
        <source>matched</source>
        <translation>zugeordnet</translation>
    </message>
    <message>
        <source>mean score</source>
        <translation>mittlere Güte</translation>
    </message>
    <message>
        <source>least certain, ± px</source>
        <translation>unsicherstes, ± px</translation>
    </message>
    <message>
        <source>still moves, px</source>
        <translation>bewegt sich noch, px</translation>
    </message>
    <message>
        <source>time, s</source>
        <translation>Zeit, s</translation>
    </message>
    <message>
        <source>Ways to align</source>
        <translation>Weisen auszurichten</translation>
    </message>
    <message>
        <source>%1 of %2</source>
        <translation>%1 von %2</translation>
    </message>
    <message>
        <source>What the numbers mean</source>
        <translation>Was die Zahlen bedeuten</translation>
    </message>
    <message>
        <source>&quot;Still moves&quot; is what the usual window of 64 px in up to six frames is off by after alignment, noise included: the smaller, the better the way fits what moved. The first row is the way that is set.</source>
        <translation>„Bewegt sich noch“ ist, um wie viel das übliche Fenster von 64 px in bis zu sechs Bildern nach dem Ausrichten abweicht, Rauschen eingeschlossen: Je kleiner, desto besser passt die Weise zu dem, was sich bewegte. Die erste Zeile ist die eingestellte Weise.</translation>
    </message>
    <message>
        <source>Take the selected way</source>
        <translation>Gewählte Weise nehmen</translation>
    </message>
    <message>
        <source>Close</source>
        <translation>Schließen</translation>
    </message>
    <message>
        <source>One</source>
        <translation>Eins</translation>
    </message>
    <message>
        <source>One picture; the badge in its corner changes between A and B</source>
        <translation>Ein Bild; das Schild in seiner Ecke wechselt zwischen A und B</translation>
    </message>
    <message>
        <source>Side by side</source>
        <translation>Beide</translation>
    </message>
    <message>
        <source>A and B side by side, with linked pan and zoom</source>
        <translation>A und B nebeneinander, gemeinsam verschoben und vergrößert</translation>
    </message>
    <message>
        <source>Curtain</source>
        <translation>Vorhang</translation>
    </message>
    <message>
        <source>A left of a line that can be dragged, B right of it</source>
        <translation>A links einer Linie, die sich ziehen lässt, B rechts davon</translation>
    </message>
    <message>
        <source>Blink</source>
        <translation>Wechsel</translation>
    </message>
    <message>
        <source>A and B by turns; hold X in the other ways of looking</source>
        <translation>A und B im Wechsel; X halten in den anderen Ansichten</translation>
    </message>
    <message>
        <source>Difference</source>
        <translation>Differenz</translation>
    </message>
    <message>
        <source>B minus A, in grey levels about a mid grey</source>
        <translation>B minus A, in Grauwerten um ein mittleres Grau</translation>
    </message>
    <message>
        <source>Tint</source>
        <translation>Tönung</translation>
    </message>
    <message>
        <source>A and B in two hues that cancel where they agree</source>
        <translation>A und B in zwei Farben, die sich aufheben, wo sie gleich sind</translation>
    </message>
    <message>
        <source>View: %1</source>
        <translation>Ansicht: %1</translation>
    </message>
    <message>
        <source>Keep what B shows, as A</source>
        <translation>Was B zeigt, als A behalten</translation>
    </message>
    <message>
        <source>Keep what B shows now as A (K), to lay what comes after beside or over it</source>
        <translation>Was B jetzt zeigt, als A behalten (K), um Späteres daneben oder darüber zu legen</translation>
    </message>
    <message>
        <source>Which samples are shown as black and as white; the data stay as they are</source>
        <translation>Welche Werte als Schwarz und als Weiß gezeigt werden; die Daten bleiben, wie sie sind</translation>
    </message>
    <message>
        <source>Map over the picture</source>
        <translation>Karte über dem Bild</translation>
    </message>
    <message>
        <source>What the rectification cost, place by place</source>
        <translation>Was die Entzerrung gekostet hat, Stelle für Stelle</translation>
    </message>
    <message>
        <source>no map</source>
        <translation>keine Karte</translation>
    </message>
    <message>
        <source>map: detail</source>
        <translation>Karte: Feinheit</translation>
    </message>
    <message>
        <source>map: picking error</source>
        <translation>Karte: Setzfehler</translation>
    </message>
    <message>
        <source>map: off the plane</source>
        <translation>Karte: vor der Ebene</translation>
    </message>
    <message>
        <source>map: ± of pairs</source>
        <translation>Karte: ± der Paare</translation>
    </message>
    <message>
        <source>Zoom</source>
        <translation>Vergrößerung</translation>
    </message>
    <message>
        <source>Full range</source>
        <translation>Voller Bereich</translation>
    </message>
    <message>
        <source>Range of the data %1 – %2</source>
        <translation>Bereich der Daten %1 – %2</translation>
    </message>
    <message>
        <source>Range %1 – %2</source>
        <translation>Bereich %1 – %2</translation>
    </message>
    <message>
        <source>Display range: %1</source>
        <translation>Gezeigter Bereich: %1</translation>
    </message>
    <message>
        <source>Shown as black</source>
        <translation>Als Schwarz gezeigt</translation>
    </message>
    <message>
        <source>Shown as white</source>
        <translation>Als Weiß gezeigt</translation>
    </message>
    <message>
        <source>What the range does</source>
        <translation>Was der Bereich tut</translation>
    </message>
    <message>
        <source>White is to be more than black.</source>
        <translation>Weiß muss mehr sein als Schwarz.</translation>
    </message>
    <message>
        <source>This changes what is shown, never the data.</source>
        <translation>Das ändert, was gezeigt wird, nie die Daten.</translation>
    </message>
    <message>
        <source>From the picture</source>
        <translation>Aus dem Bild</translation>
    </message>
    <message>
        <source>All but the darkest and brightest half percent</source>
        <translation>Alles bis auf das dunkelste und hellste halbe Prozent</translation>
    </message>
    <message>
        <source>Full range of the depth</source>
        <translation>Voller Bereich der Tiefe</translation>
    </message>
    <message>
        <source>Side</source>
        <translation>Beide</translation>
    </message>
    <message>
        <source>Diff.</source>
        <translation>Diff.</translation>
    </message>
    <message>
        <source> fit</source>
        <translation> ganz</translation>
    </message>
    <message>
        <source>A %1 · B %2</source>
        <translation>A %1 · B %2</translation>
    </message>
    <message>
        <source>result at %1</source>
        <translation>Ergebnis bei %1</translation>
    </message>
    <message>
        <source>step %1 at %2</source>
        <translation>Schritt %1 bei %2</translation>
    </message>
    <message>
        <source>Degrees, positive counter-clockwise; or radians, as 0.5 rad</source>
        <translation>Grad, gegen den Uhrzeigersinn positiv; oder Radiant, als 0.5 rad</translation>
    </message>
</context>
</TS>
